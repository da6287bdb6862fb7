import { execFileSync, spawn } from 'node:child_process'
import { once } from 'node:events'
import { symlinkSync } from 'node:fs'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import type { RunSummary, RunView } from '../contract/runs'
import type { Shelf } from '../contract/shelf'
import { answers, home, killServer, startServer } from './server'

const port = '4187'
const url = `http://127.0.0.1:${port}`
const workers = 2
/** Nights of each kind, in turns: the machine differs from itself. */
const turns = 2

async function ask<T>(method: string, what: string, body?: unknown): Promise<T> {
  const r = await fetch(`${url}/api/${what}`, {
    method,
    headers: { 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  })
  if (!r.ok) throw new Error(`${method} ${what}: ${await r.text()}`)
  return (await r.json()) as T
}

/** Waits for a night; its seconds. */
async function ended(id: string): Promise<number> {
  for (;;) {
    const { state, created, finished } = await ask<RunView>('GET', `runs/${id}`)
    if (state === 'done') return (Date.parse(finished!) - Date.parse(created)) / 1000
    await sleep(100)
  }
}

/** A night over again, by so many workers of the machine that serves. */
async function again(id: string, here: number): Promise<number> {
  const { id: next } = await ask<{ id: string }>('POST', `runs/${id}/again`)
  await ask('POST', `runs/${next}`, { action: 'workers', workers: here })
  return ended(next)
}

/**
 * The demo's night by workers of the machine that serves, and by as many that joined over HTTP and see its storage
 * under another path: what the way over the network costs, since both are this machine.
 */
export async function joining(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  execFileSync(process.execPath, [path.join(home, 'dist', 'demo.mjs'), folder], { stdio: 'ignore' })
  const storage = path.join(folder, 'storage')
  const mounted = path.join(folder, 'mounted')
  symlinkSync(storage, mounted)
  const server = startServer(path.join(folder, 'data'), storage, port)
  try {
    await answers(url)
    // what the night needs to know is measured first
    for (;;) {
      const { list } = await ask<{ list: { undecided: boolean; pending: boolean }[] }>('GET', 'deliverables')
      if (!list.some((d) => d.undecided || d.pending)) break
      await sleep(200)
    }
    const { id } = await ask<{ id: string }>('POST', 'runs', { name: 'Night', workers, keys: null })
    await ended(id)
    const taken = { here: 0, there: 0 }
    for (let turn = 0; turn < turns; turn++) {
      taken.here += await again(id, workers)
      const words = [
        'join',
        url,
        '--storage',
        mounted,
        '--workers',
        String(workers),
        '--data',
        path.join(folder, 'joined'),
      ]
      const machine = spawn(process.execPath, [path.join(home, 'dist', 'cli.mjs'), ...words], { stdio: 'ignore' })
      while ((await ask<Shelf>('GET', 'outlets')).machines.length === 0) await sleep(100)
      taken.there += await again(id, 0)
      const gone = once(machine, 'exit')
      machine.kill('SIGINT')
      await gone
    }
    const { total } = (await ask<RunSummary[]>('GET', 'runs'))[0]!
    const each = (all: number) => `${(all / turns).toFixed(0)} s`
    print(
      `the demo’s night of ${total} files, ${workers} workers that joined over HTTP against ${workers} of the machine`,
      `${(taken.here / taken.there).toFixed(2)} × as fast (${each(taken.there)}; ${each(taken.here)})`,
    )
  } finally {
    await killServer(server)
  }
}
