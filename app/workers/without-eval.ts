// the policy forbids eval; schemas are read without it, and must know before the first of them is made
;(globalThis as { __zod_globalConfig?: object }).__zod_globalConfig = { jitless: true }
