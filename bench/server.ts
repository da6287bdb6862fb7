import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { setTimeout as sleep } from 'node:timers/promises'
import path from 'node:path'

/** The project’s folder, with the built server. */
export const home = process.env.VELVET_HOME ?? process.cwd()
export const builtServer = path.join(home, '.output/server/index.mjs')

/** Starts the built server as the launcher does. */
export function startServer(data: string, storage: string, port: string): ChildProcess {
  return spawn(process.execPath, ['--heap-growing-percent=30', builtServer], {
    env: {
      ...process.env,
      VELVET_HOME: home,
      VELVET_DATA: data,
      VELVET_STORAGE: JSON.stringify([storage]),
      NITRO_PORT: port,
      NITRO_HOST: '127.0.0.1',
      PORT: port,
      HOST: '127.0.0.1',
    },
    stdio: 'ignore',
  })
}

/** Waits until a server answers. */
export async function answers(url: string): Promise<void> {
  for (let i = 0; i < 600; i++) {
    const there = await fetch(`${url}/api/runs`).then(
      (r) => r.ok,
      () => false,
    )
    if (there) return
    await sleep(100)
  }
  throw new Error('The server did not come up.')
}

/** Ends a server as a power cut does. */
export async function killServer(server: ChildProcess): Promise<void> {
  if (server.exitCode !== null || server.signalCode !== null) return
  const gone = once(server, 'exit')
  server.kill('SIGKILL')
  await gone
}
