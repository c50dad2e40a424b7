import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'

const PACKAGE = '@lucide/vue'

/** Where the package keeps each of its icons, by the names it gives out. */
function filesOfIcons() {
  const index = createRequire(import.meta.url)
    .resolve(PACKAGE)
    .replace('dist/cjs/lucide-vue.js', 'dist/esm/lucide-vue.mjs')
  const files = new Map()
  for (const [, names, file] of readFileSync(index, 'utf8').matchAll(/export \{([^}]+)\} from '\.\/(icons\/[^']+)'/g))
    for (const [, name] of names.matchAll(/default as (\w+)/g)) files.set(name, `${PACKAGE}/dist/esm/${file}`)
  return files
}

/**
 * A plugin for builds: every icon is brought from its own file. The package's index names some 1,900 of them, which a build
 * would read to keep thirty.
 * @returns {import('vite').Plugin}
 */
export function singleIcons() {
  let files
  return {
    name: 'single-icons',
    enforce: 'pre',
    apply: 'build',
    transform(code, id) {
      if (!/\.(vue|ts)$/.test(id) || !code.includes(`'${PACKAGE}'`)) return
      files ??= filesOfIcons()
      const single = name => {
        const [icon, as = icon] = name.trim().split(/\s+as\s+/)
        if (!files.has(icon)) throw new Error(`${PACKAGE} has no icon ${icon}.`)
        return `import ${as} from '${files.get(icon)}'`
      }
      const apart = (_, list) =>
        list
          .split(',')
          .filter(name => name.trim())
          .map(single)
          .join('; ')
      return { code: code.replace(/import \{([^}]*)\} from '@lucide\/vue'/g, apart), map: null }
    },
  }
}
