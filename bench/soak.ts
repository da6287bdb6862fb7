import { createHash } from 'node:crypto'
import type { ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { parseArgs } from 'node:util'
import { setTimeout as sleep } from 'node:timers/promises'
import type { DeliverableList } from '../contract/live'
import type { Finished, RunView } from '../contract/runs'
import type { Shelf } from '../contract/shelf'
import type { ShownTimeline } from '../contract/timelines'
import { keyText } from '../core/deliverable/outlet'
import { mainFile } from '../core/deliverable/proof'
import { shippedRecipes } from '../core/recipe/registry'
import { makeRate } from '../core/time/rate'
import { makeReel, type ReelPlan } from '../demo/reel'
import { machineCodecs } from '../engine/worker/codecs'
import { answers, killServer, startServer } from './server'

// Nights over good and damaged media, while workers and the server are killed at random: what is lost, doubled, named
// though it is not whole, or not what its proof says, is counted. `npm run soak -- --minutes N`.

const port = '4192'
const url = `http://127.0.0.1:${port}`
const kinds = ['sound', 'viewing', 'master'] as const
const frames = 75

/** What went wrong over all nights. */
const counts = { kills: 0, nights: 0, files: 0, again: 0, lost: 0, doubled: 0, halfNamed: 0, wrongSums: 0 }

async function ask<T>(method: string, route: string, body?: unknown): Promise<T> {
  for (let tries = 0; ; tries++)
    try {
      const r = await fetch(`${url}/api/${route}`, {
        method,
        ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
      })
      if (!r.ok) throw new Error(`${method} ${route}: ${r.status} ${await r.text()}`)
      return (await r.json()) as T
    } catch (e) {
      // a server that was just killed is coming back
      if (!(e instanceof TypeError) || tries > 300) throw e
      await sleep(100)
    }
}

/** Four good reels, one cut off, one with bytes turned over in its pictures. */
async function makeMedia(storage: string): Promise<void> {
  const plan: ReelPlan = {
    ...{ width: 320, height: 180, rate: makeRate(25), dropFrame: false, start: 90_000, bitrate: 600_000 },
    ...{ pictures: 'h264', sound: 'pcm', container: 'mov' },
    shots: [{ scene: 'bell', frames, name: 'Bell', reel: 'R1' }],
    channels: [0, 1].map((c) => Float32Array.from({ length: frames * 1920 }, (_, i) => 0.2 * Math.sin(i / (20 + c)))),
  }
  for (let n = 1; n <= 6; n++) await makeReel(path.join(storage, `reel_${n}.mov`), plan, machineCodecs())
  const cut = path.join(storage, 'reel_5.mov')
  const whole = readFileSync(cut)
  writeFileSync(cut, whole.subarray(0, Math.floor(whole.length * 0.6)))
  const turned = readFileSync(path.join(storage, 'reel_6.mov'))
  for (let i = 0; i < 40; i++) turned[Math.floor(turned.length * (0.3 + i / 100))]! ^= 0x5a
  writeFileSync(path.join(storage, 'reel_6.mov'), turned)
}

const sumOf = (file: string) => createHash('sha256').update(readFileSync(file)).digest('hex')

async function layOutlets(night: number): Promise<void> {
  for (const kind of kinds) {
    const recipe = shippedRecipes().find((r) => r.kind === kind)!
    const folder = `night-${night}/${kind}`
    await ask('PUT', 'outlets', {
      id: kind,
      name: kind,
      recipe,
      spec: 'open',
      pattern: '{timeline}',
      root: 'storage',
      folder,
    })
  }
}

/** Starts a night of everything that is cleared, into a folder of its own. */
async function begin(night: number): Promise<{ id: string; good: Set<string> }> {
  await layOutlets(night)
  let all = await ask<DeliverableList>('GET', 'deliverables')
  while (all.list.some((d) => d.pending)) {
    await sleep(200)
    all = await ask('GET', 'deliverables')
  }
  const chosen = all.list.filter((d) => d.cleared)
  const { id } = await ask<{ id: string }>('POST', 'runs', {
    ...{ name: `Night ${night}`, workers: 2, keys: chosen.map(keyText) },
  })
  const timelines = await ask<ShownTimeline[]>('GET', 'timelines')
  const damaged = new Set(timelines.filter((t) => /_[56]$/.test(t.name)).map((t) => t.name))
  const view = await ask<RunView>('GET', `runs/${id}`)
  return { id, good: new Set(view.items.filter((i) => !damaged.has(i.timeline)).map((i) => i.id)) }
}

/** Kills at random until a run is done; what failed for four lost workers is run again, as an operator would. */
async function disturb(
  run: string,
  good: ReadonlySet<string>,
  server: { now: ChildProcess },
  restart: () => Promise<void>,
) {
  for (;;) {
    // a worker needs a second or two to come up and do something worth losing
    await sleep(1500 + Math.random() * 3500)
    const view = await ask<RunView>('GET', `runs/${run}`)
    for (const i of view.items)
      if (i.state === 'failed' && good.has(i.id) && i.problem?.code === 'worker.lost') {
        counts.again++
        await ask('POST', `runs/deliverables/${i.id}`, { action: 'again' })
      }
    if ((await ask<RunView>('GET', `runs/${run}`)).state === 'done') return
    if (Math.random() < 0.25) {
      await killServer(server.now)
      await restart()
    } else {
      const { workers } = await ask<Shelf>('GET', 'outlets')
      const victim = workers[Math.floor(Math.random() * workers.length)]
      try {
        if (victim?.pid) process.kill(victim.pid, 'SIGKILL')
      } catch {
        continue
      }
    }
    counts.kills++
    if (counts.kills % 10 === 0) process.stdout.write(`${counts.kills} kills\n`)
  }
}

/** Holds what a night has left on the disk against what it says it made. */
async function count(storage: string, night: number, run: string, good: ReadonlySet<string>): Promise<void> {
  const folder = path.join(storage, `night-${night}`)
  const view = await ask<RunView>('GET', `runs/${run}`)
  const named = new Set<string>()
  for (const i of view.items) {
    if (i.state !== 'done') {
      if (good.has(i.id)) counts.lost++
      continue
    }
    const { proof, path: file } = await ask<Finished>('GET', `handover/${i.id}`)
    const full = path.join(storage, file)
    named.add(path.relative(folder, full))
    counts.files++
    if (!existsSync(full)) counts.lost++
    else if (sumOf(full) !== mainFile(proof).sums.sha256) counts.wrongSums++
  }
  const there = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((d) => d.isFile())
    .map((d) => path.relative(folder, path.join(d.parentPath, d.name)))
  for (const f of there) {
    const report = /handover-.*\.(json|sha256)$/.test(f)
    if (named.has(f) || report || f.includes('.refused')) continue
    if (/_v\d+\.\w+$/.test(f)) counts.doubled++
    else counts.halfNamed++
    const of = view.items.filter((i) => i.path.endsWith(f.replace(/^.*\//, '')))
    process.stdout.write(`${f}: ${of.map((i) => `${i.title} ${i.state} ${i.problem?.message ?? ''}`).join('; ')}\n`)
  }
  for (const f of there.filter((x) => x.endsWith('.sha256')))
    for (const line of readFileSync(path.join(folder, f), 'utf8').trim().split('\n')) {
      const [sum, name] = line.split('  ') as [string, string]
      if (sumOf(path.join(folder, path.dirname(f), name)) !== sum) counts.wrongSums++
    }
  const scratch = path.join(storage, '.velvet-scratch')
  if (!existsSync(scratch)) return
  counts.halfNamed++
  process.stdout.write(`left in scratch: ${readdirSync(scratch, { recursive: true }).join(', ')}\n`)
}

async function main(): Promise<void> {
  const { values } = parseArgs({ options: { minutes: { type: 'string', default: '5' } } })
  const until = Date.now() + Number(values.minutes) * 60_000
  const folder = mkdtempSync(path.join(tmpdir(), 'velvet-soak-'))
  const [storage, data] = [path.join(folder, 'storage'), path.join(folder, 'data')]
  await mkdir(storage)
  await makeMedia(storage)
  const server = { now: startServer(data, storage, port) }
  const restart = async () => {
    server.now = startServer(data, storage, port)
    await answers(url)
  }
  try {
    await answers(url)
    for (let n = 1; n <= 6; n++) {
      const t = await ask<ShownTimeline>('POST', 'timelines', { media: { root: 'storage', path: `reel_${n}.mov` } })
      const region = { id: 'r', name: 'whole', in: 0, out: t.model.length, metadata: {} }
      await ask('PUT', `timelines/${t.id}/split`, { version: 1, split: { regions: [region], markers: [] } })
    }
    const timelines = await ask<ShownTimeline[]>('GET', 'timelines')
    const keys = timelines.flatMap((t) => kinds.map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId })))
    await layOutlets(0)
    await ask('POST', 'deliverables', { action: 'choose', keys, chosen: true })
    // what is cut off is to be tried all the same
    await ask('POST', 'deliverables', { action: 'waive', keys, rule: 'house-intact', reason: 'soak', initials: 'QP' })
    for (let night = 1; Date.now() < until; night++) {
      const { id, good } = await begin(night)
      await disturb(id, good, server, restart)
      await count(storage, night, id, good)
      counts.nights++
      await rm(path.join(storage, `night-${night}`), { recursive: true, force: true })
      process.stdout.write(`${JSON.stringify(counts)}\n`)
    }
  } finally {
    await killServer(server.now)
    await rm(folder, { recursive: true, force: true, maxRetries: 20, retryDelay: 200 })
  }
  const { kills, nights, files, again, ...faults } = counts
  process.stdout.write(
    `${kills} kills in ${nights} nights, ${files} files proven, ${again} run again after four lost workers: ` +
      `${Object.entries(faults)
        .map(([k, v]) => `${k} ${v}`)
        .join(', ')}\n`,
  )
  process.exitCode = Object.values(faults).some((n) => n > 0) ? 1 : 0
}

await main()
