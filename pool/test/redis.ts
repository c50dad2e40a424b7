import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { createServer, connect } from 'node:net'
import { once } from 'node:events'

const SERVER = '/usr/bin/redis-server'

export interface OwnRedis {
  readonly url: string
  /** Ends it without a warning, as a machine does that fails. */
  kill(): Promise<void>
  /** Starts it again with what it had written. */
  start(): Promise<void>
}

/** A Redis of the test's own on a free port of the loopback, which writes down every change before it answers. */
export async function ownRedis(folder: string): Promise<OwnRedis> {
  if (!existsSync(SERVER)) throw new Error(`${SERVER} is missing; npm test installs it.`)
  const port = await freePort()
  let server: ChildProcess | undefined
  async function start(): Promise<void> {
    const args = ['--bind', '127.0.0.1', '--port', String(port), '--dir', folder, '--save', '']
    const safe = ['--appendonly', 'yes', '--appendfsync', 'always']
    const told = { stdio: 'ignore' as const }
    server = spawn(SERVER, [...args, ...safe, '--maxmemory-policy', 'noeviction'], told)
    for (let tries = 0; !(await answers(port)); tries++) {
      if (tries > 200) throw new Error('The Redis of the test did not start.')
      await new Promise(done => setTimeout(done, 50))
    }
  }
  async function kill(): Promise<void> {
    if (!server || server.exitCode !== null || server.signalCode !== null) return
    const gone = once(server, 'exit')
    server.kill('SIGKILL')
    await gone
  }
  await start()
  return { url: `redis://127.0.0.1:${port}`, start, kill }
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1')
  await once(server, 'listening')
  const { port } = server.address() as { port: number }
  server.close()
  await once(server, 'close')
  return port
}

/** Whether it takes commands; while it reads what it had written it does not. */
const answers = (port: number): Promise<boolean> =>
  new Promise(done => {
    const socket = connect(port, '127.0.0.1', () => socket.write('PING\r\n'))
    socket.once('data', d => {
      done(d.toString().startsWith('+PONG'))
      socket.destroy()
    })
    socket.once('error', () => done(false))
  })
