import { execFileSync } from 'node:child_process'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { keyText } from '../core/deliverable/outlet'
import { Session } from '../engine/session'
import { home } from '../engine/storage/home'

const workers = 2

/** The demo's night twice over: what was forecast, and what it took; the second time with what the first one taught. */
export async function forecasting(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  execFileSync(process.execPath, [path.join(home(), 'dist', 'demo.mjs'), folder], { stdio: 'ignore' })
  const data = path.join(folder, 'data')
  for (const time of ['first', 'second']) {
    const session = await Session.open({ data, roots: [path.join(folder, 'storage')], workers, analyse: false })
    while ((await session.nights.judged()).some((d) => d.undecided || d.pending)) await sleep(200)
    const going = (await session.nights.judged()).filter((d) => d.cleared)
    const forecast = going.reduce((n, d) => n + d.seconds, 0) / workers
    const began = performance.now()
    await session.nights.start(
      time,
      workers,
      going.map((d) => keyText(d.draft.key)),
    )
    while ((await session.progress.list())[0]!.state === 'running') await sleep(50)
    const took = (performance.now() - began) / 1000
    await session.close()
    print(
      `the demo’s night of ${going.length} files, ${time} run`,
      `forecast ${forecast.toFixed(0)} s, took ${took.toFixed(0)} s: ${(forecast / took).toFixed(2)} ×`,
    )
  }
}
