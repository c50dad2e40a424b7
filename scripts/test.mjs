import { build, chromium, demo, install, run } from './setup.mjs'

// lint, types, unit, build, end-to-end: in this order, on a clone with nothing installed
install()
chromium()
run('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
run('npm', ['run', '-s', 'lint'])
run('npm', ['run', '-s', 'types'])
run('npm', ['run', '-s', 'unit'])
build(demo())
run('npm', ['run', '-s', 'e2e'])
