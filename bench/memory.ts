import { execFileSync } from 'node:child_process'
import { mkdir, readFile } from 'node:fs/promises'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { shippedRecipes } from '../core/recipe/registry'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import { Session } from '../engine/session'
import { machineCodecs } from '../engine/worker/codecs'

const reels = 50
const regions = 20
const frames = 10

/** Resident memory of each worker process, MB: the children of this one, as Linux tells it. */
async function workerMemory(): Promise<number[]> {
  const children = execFileSync('pgrep', ['-P', String(process.pid)], { encoding: 'utf8' })
    .split('\n')
    .filter(Boolean)
  const status = await Promise.all(children.map((pid) => readFile(`/proc/${pid}/status`, 'utf8').catch(() => '')))
  return status.flatMap((text) => (/VmRSS:\s+(\d+) kB/.exec(text)?.[1] ?? []) as string[]).map((kB) => +kB / 1000)
}

/**
 * Memory of the workers over a thousand viewing copies of fifty files with AAC sound: each is decoded from its file and
 * again from what was written. What decoders keep when they are closed would add up.
 */
export async function memory(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  await mkdir(folder)
  const rate = makeRate(25)
  const sound = Float32Array.from({ length: regions * frames * 1920 }, (_, i) => 0.2 * Math.sin(i / 15))
  const shots = [{ scene: 'bell' as const, frames: regions * frames, name: 'bell', reel: 'BELL', clean: true }]
  const plan = { width: 320, height: 180, rate, dropFrame: false, start: 0, shots, bitrate: 100_000 }
  const session = await Session.open({ data: path.join(folder, 'data'), roots: [folder], workers: 2, analyse: false })
  const root = session.roots.list[0]!.name
  const recipe = { ...shippedRecipes().find((r) => r.kind === 'viewing')!, width: 320, height: 180 }
  await session.outlets.save({
    id: 'o',
    name: 'o',
    recipe,
    spec: 'open',
    pattern: '{timeline}_{number}',
    root,
    folder: 'o',
  })
  for (let n = 0; n < reels; n++) {
    const file = path.join(folder, `reel_${n}.mp4`)
    // no two alike: what is known of one does not serve for another
    const own = [sound.map((v) => v * (1 - n / 100)), sound]
    await makeReel(file, { ...plan, pictures: 'h264', sound: 'aac', container: 'mp4', channels: own }, machineCodecs())
    const t = await session.timelines.bringIn({ root, path: path.basename(file) })
    const list = Array.from({ length: regions }, (_, i) => ({
      ...{ id: `r${i}`, name: `r${i}`, metadata: {} },
      ...{ in: i * frames, out: (i + 1) * frames },
    }))
    await session.timelines.saveSplit(t.id, { regions: list, markers: [] }, 1)
    await session.outlets.choose(
      list.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'o' })),
      true,
    )
  }
  while ((await session.nights.judged()).some((d) => d.undecided)) await sleep(300)
  const run = await session.nights.start('memory', 2)
  const seen: string[] = []
  for (let next = 200; ; await sleep(200)) {
    const [now] = await session.progress.list()
    if (now!.done < next && now!.state === 'running') continue
    seen.push(`${now!.done}: ${(await workerMemory()).map((mb) => Math.round(mb)).join(' and ')}`)
    next += 200
    if (now!.state !== 'running') break
  }
  const { items } = await session.progress.view(run)
  const failed = items.filter((i) => i.state !== 'done')
  await session.close()
  print(
    'memory of two workers, MB, by viewing copies',
    `${seen.join('; ')}${failed[0] ? `; ${failed.length} not made: ${failed[0].problem?.message}` : ''}`,
  )
}

/** The most memory that a worker takes for a viewing copy, and for one of ten times the length. */
export async function lengths(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  await mkdir(folder)
  const rate = makeRate(25)
  const all = 5000
  const sound = Float32Array.from({ length: all * 1920 }, (_, i) => 0.2 * Math.sin(i / 15))
  const shots = [{ scene: 'bell' as const, frames: all, name: 'bell', reel: 'BELL', clean: true }]
  const plan = { width: 640, height: 360, rate, dropFrame: false, start: 0, shots, bitrate: 1_000_000 }
  const coded = { pictures: 'h264', sound: 'aac', container: 'mp4', channels: [sound, sound] } as const
  await makeReel(path.join(folder, 'reel.mp4'), { ...plan, ...coded }, machineCodecs())
  const most: number[] = []
  for (const length of [all / 10, all]) {
    const data = path.join(folder, `data-${length}`)
    const session = await Session.open({ data, roots: [folder], workers: 1, analyse: false })
    const root = session.roots.list[0]!.name
    const recipe = { ...shippedRecipes().find((r) => r.kind === 'viewing')!, width: 480, height: 270 }
    await session.outlets.save({ id: 'o', name: 'o', recipe, spec: 'open', pattern: `${length}`, root, folder: 'o' })
    const t = await session.timelines.bringIn({ root, path: 'reel.mp4' })
    const regions = [{ id: 'r', name: 'r', in: 0, out: length, metadata: {} }]
    await session.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
    await session.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
    while ((await session.nights.judged()).some((d) => d.undecided)) await sleep(100)
    await session.nights.start('length', 1)
    let peak = 0
    while ((await session.progress.list())[0]!.state === 'running') {
      peak = Math.max(peak, ...(await workerMemory()))
      await sleep(50)
    }
    await session.close()
    await sleep(500)
    most.push(peak)
  }
  const [short, long] = most as [number, number]
  print(
    'memory of a worker, ten times the length',
    `${((long / short - 1) * 100).toFixed(0)} % more (${short.toFixed(0)} and ${long.toFixed(0)} MB; goal < 10 %)`,
  )
}
