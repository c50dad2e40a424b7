import { build } from 'esbuild'
import { resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

/** Builds the child's program into one file that needs nothing beside it. */
export async function buildChild(outfile) {
  outfile = resolve(outfile)
  await build({
    entryPoints: [fileURLToPath(new URL('./child.ts', import.meta.url))],
    outfile,
    // the same bytes wherever it is built from: by them it is told which machines run the same program
    absWorkingDir: fileURLToPath(new URL('../..', import.meta.url)),
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
