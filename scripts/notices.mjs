// Writes NOTICES.md: everything that ships with the application, with its licence, from what is installed.
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const read = path => JSON.parse(readFileSync(path, 'utf8'))
const OWN = /^@chiraxis\//
const TOOLS = /^(nuxt|@pinia\/nuxt|@vite-pwa\/nuxt|@tailwindcss\/.*|tailwindcss|vite)$/
/** What a tool puts into what ships. */
const BROUGHT = ['workbox-core', 'workbox-precaching', 'workbox-routing', 'workbox-strategies', 'workbox-window']

/** Where a package lies that `from` would load. */
function find(name, from) {
  for (let at = from; ; at = join(at, '..')) {
    const path = join(at, 'node_modules', name)
    if (existsSync(join(path, 'package.json'))) return path
    if (at === '.' || at === '/') return undefined
  }
}

const shipped = new Map()
function visit(path) {
  const { name, version, license, dependencies = {}, author, homepage, repository } = read(join(path, 'package.json'))
  const key = `${name} ${version}`
  if (shipped.has(key)) return
  if (!OWN.test(name) && path !== '.') shipped.set(key, { name, version, license, author, path, homepage, repository })
  // the framework's own tools build the application and do not ship; what of it runs lies in the server's folder
  if (TOOLS.test(name)) return
  for (const other of Object.keys(dependencies)) {
    const found = find(other, path)
    if (found) visit(found)
  }
}
visit('.')
for (const workspace of read('package.json').workspaces) if (workspace !== 'demo') visit(workspace)

for (const name of BROUGHT) {
  const found = find(name, '.')
  if (found) visit(found)
}
const server = '.output/server/node_modules'
if (existsSync(server))
  for (const name of readdirSync(server)) {
    const inside = name.startsWith('@') ? readdirSync(join(server, name)).map(n => join(name, n)) : [name]
    for (const one of inside) {
      const path = find(one, '.')
      if (path && !one.startsWith('.')) visit(path)
    }
  }

const textOf = path => {
  const file = readdirSync(path).find(f => /^(licen[cs]e|copying|ofl)(\.\w+)?$/i.test(f))
  return file ? readFileSync(join(path, file), 'utf8').trim() : ''
}
const list = [...shipped.values()].sort((a, b) => a.name.localeCompare(b.name) || a.version.localeCompare(b.version))
const licenceOf = p => (typeof p.license === 'string' ? p.license : (p.license?.type ?? 'see its text'))
const groups = new Map()
for (const p of list) {
  const text = textOf(p.path)
  const own = groups.get(text) ?? []
  groups.set(text, [...own, p])
}
const lines = [
  '# Notices',
  '',
  'What ships with the application, fonts and libraries, with their licences. Made by `npm run notices`; the licence of Chiraxis itself is told in `package.json`.',
  '',
  '| package | version | licence |',
  '|---|---|---|',
  ...list.map(p => `| ${p.name} | ${p.version} | ${licenceOf(p)} |`),
  '',
]
for (const [text, packages] of groups) {
  if (!text) continue
  lines.push(`## ${packages.map(p => p.name).join(', ')}`, '', '```', text, '```', '')
}
writeFileSync('NOTICES.md', lines.join('\n'))
console.log(`${list.length} packages, ${groups.size} texts`)
