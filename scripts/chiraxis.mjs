// The command line, bundled anew when a source is newer than the bundle: hundreds of small files start slowly one by one.
import { mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const bundle = join(root, 'node_modules/.cache/chiraxis/cli.mjs')
const SOURCES = ['core/src', 'loaders/src', 'pool/src', 'cli/src']

const newest = folder =>
  Math.max(
    statSync(folder).mtimeMs,
    ...readdirSync(folder, { withFileTypes: true }).map(e =>
      e.isDirectory() ? newest(join(folder, e.name)) : statSync(join(folder, e.name)).mtimeMs,
    ),
  )
const built = statSync(bundle, { throwIfNoEntry: false })?.mtimeMs ?? 0
if (built <= Math.max(statSync(join(root, 'package-lock.json')).mtimeMs, ...SOURCES.map(s => newest(join(root, s))))) {
  const { build } = await import('esbuild')
  mkdirSync(dirname(bundle), { recursive: true })
  const folder = dirname(bundle)
  const drafts = join(folder, `draft-${process.pid}`)
  await build({
    entryPoints: { cli: join(root, 'cli/src/main.ts'), 'read-thread': join(root, 'cli/src/read-thread.ts') },
    outdir: drafts,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    // a command loads what it needs
    splitting: true,
    chunkNames: 'part-[hash]',
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    // packages stay where they are; only our own workspaces are put together
    plugins: [
      {
        name: 'packages',
        setup: b =>
          b.onResolve({ filter: /^[^./]/ }, ({ path, kind }) =>
            kind === 'entry-point' || (path.startsWith('@chiraxis/') && path !== '@chiraxis/pool/build-child')
              ? undefined
              : { path, external: true },
          ),
      },
    ],
  })
  // the bundle last: whoever finds it finds its parts and the thread's program too
  const parts = readdirSync(drafts).filter(name => name !== 'cli.mjs')
  for (const name of [...parts, 'cli.mjs']) renameSync(join(drafts, name), join(folder, name))
  rmSync(drafts, { recursive: true, force: true })
  // parts of bundles before this one, which nobody runs any more
  const day = Date.now() - 86_400_000
  for (const name of readdirSync(folder))
    if (name.startsWith('part-') && !parts.includes(name) && statSync(join(folder, name)).mtimeMs < day)
      rmSync(join(folder, name), { force: true })
}
await import(pathToFileURL(bundle).href)
