import { build } from 'esbuild'
import { fileURLToPath } from 'node:url'

/** Builds the child's program into one file that needs nothing beside it. */
export async function buildChild(outfile) {
  await build({
    entryPoints: [fileURLToPath(new URL('./child.ts', import.meta.url))],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    // packages that reach for require find it
    banner: {
      js: "import { createRequire as __createRequire } from 'node:module'; const require = __createRequire(import.meta.url);",
    },
  })
  return outfile
}
