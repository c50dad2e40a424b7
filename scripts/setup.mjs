import { execFileSync, spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/** Runs a command with its output shown; ends the program with its status when it fails. */
export function run(command, args, options = {}) {
  const done = spawnSync(command, args, { stdio: 'inherit', ...options })
  if (done.status !== 0) process.exit(done.status ?? 1)
}

/** Runs commands beside each other, their output kept together; ends the program when one of them fails. */
export async function runTogether(...commands) {
  const ended = await Promise.all(
    commands.map(
      ([command, args]) =>
        new Promise(done => {
          const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'] })
          let words = ''
          for (const stream of [child.stdout, child.stderr]) stream.on('data', d => (words += d))
          child.on('close', status => {
            process.stdout.write(words)
            done(status)
          })
        }),
    ),
  )
  if (ended.some(status => status !== 0)) process.exit(1)
}

/** Installs packages when they are missing or the lock file changed. */
export function install() {
  const lock = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex')
  const mark = 'node_modules/.installed'
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return
  console.log('Installing packages …')
  // not `npm ci`: it refuses a lock file without the entries of platforms the registry at hand does not carry
  run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'])
  writeFileSync(mark, lock)
}

/** Newest change below the given files and folders, milliseconds. */
export function newest(paths) {
  let latest = 0
  for (const path of paths) {
    if (!existsSync(path)) continue
    const info = statSync(path)
    if (info.isDirectory()) {
      for (const name of readdirSync(path)) {
        if (name !== 'node_modules' && name !== 'demo') latest = Math.max(latest, newest([join(path, name)]))
        else if (name === 'demo' && path !== 'public') latest = Math.max(latest, newest([join(path, name)]))
      }
    } else latest = Math.max(latest, info.mtimeMs)
  }
  return latest
}

const SOURCES = [
  'app',
  'core/src',
  'loaders/src',
  'pool/src',
  'server',
  'nuxt.config.ts',
  'package-lock.json',
  'public/mark.svg',
]

/** What makes the demo files. */
export const MAKE_DEMO = ['npx', ['tsx', 'demo/src/build.ts', 'public/demo']]
/** The same with fewer vertices, for tests of the window in which nothing is measured. */
export const MAKE_LIGHT_DEMO = ['npx', ['tsx', 'demo/src/build.ts', '.demo-light', '0.4']]

/** Whether the demo files are there and no generator was changed since. */
export const hasDemo = (place = 'public/demo') =>
  existsSync(`${place}/index.json`) &&
  statSync(`${place}/index.json`).mtimeMs > newest(['demo/src', 'core/src/formats', 'core/src/skeleton'])

/** Makes the demo files when they are missing or their generators changed. */
export function demo() {
  if (hasDemo()) return false
  console.log('Making the demo figures and takes …')
  run(...MAKE_DEMO)
  return true
}

/** Builds the application when it is missing or its sources changed. */
export function build(force = false) {
  const mark = '.output/nitro.json'
  if (!force && existsSync(mark) && statSync(mark).mtimeMs > newest(SOURCES)) return
  console.log('Building …')
  run('npx', ['nuxt', 'build', '--logLevel', 'silent'])
}

/** What tests need of Debian's packages, by the program each brings. */
const FOR_TESTS = { '/usr/bin/chromium': 'chromium', '/usr/bin/redis-server': 'redis-server' }

/** Installs what tests need of the system when it is missing. */
export function systemPackages() {
  const missing = Object.entries(FOR_TESTS).flatMap(([program, name]) => (existsSync(program) ? [] : [name]))
  if (missing.length === 0) return
  console.log(`Installing ${missing.join(' and ')} …`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  const args = ['install', '-y', '-q', ...missing]
  try {
    execFileSync('apt-get', args, { stdio: 'ignore', env })
  } catch {
    execFileSync('apt-get', ['update', '-q'], { stdio: 'ignore' })
    run('apt-get', args, { env })
  }
}
