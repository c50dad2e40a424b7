import { build, hasDemo, install, MAKE_DEMO, MAKE_LIGHT_DEMO, run, runTogether, systemPackages } from './setup.mjs'

// lint, types, unit, build, end-to-end: in this order, on a clone with nothing installed. What keeps one core busy each
// runs together
install()
systemPackages()
run('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
const stale = !hasDemo()
console.log('Lint, types and the demo figures …')
const light = hasDemo('.demo-light') ? [] : [MAKE_LIGHT_DEMO]
await runTogether(
  ['npm', ['run', '-s', 'types']],
  ['npm', ['run', '-s', 'lint']],
  ...(stale ? [MAKE_DEMO] : []),
  ...light,
)
run('npm', ['run', '-s', 'unit'])
// tests go over the loopback: compressing as small as can be takes a minute and is not looked at
process.env.CHIRAXIS_QUICK_BUILD = '1'
build(stale)
run('npm', ['run', '-s', 'e2e'])
