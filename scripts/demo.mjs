import { spawn } from 'node:child_process'
import { build, demo, install } from './setup.mjs'

// everything a clone with nothing installed needs, then the application with the demo figures
install()
// it is looked at on this machine: compressing as small as can be takes a minute
process.env.CHIRAXIS_QUICK_BUILD = '1'
build(demo())
const port = process.env.PORT ?? '4870'
const server = spawn(process.execPath, ['.output/server/index.mjs'], {
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...process.env, HOST: '127.0.0.1', NITRO_HOST: '127.0.0.1', PORT: port, NITRO_PORT: port },
})
server.on('exit', code => process.exit(code ?? 1))
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
const address = `http://127.0.0.1:${port}/`
for (let i = 0; i < 100; i++) {
  try {
    if ((await fetch(`${address}api/health`)).ok) break
  } catch {
    await new Promise(done => setTimeout(done, 100))
  }
}
console.log(`Chiraxis is at ${address}`)
