import { mkdir } from 'node:fs/promises'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { fail } from '../core/problem'
import { shippedRecipes } from '../core/recipe/registry'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import { machineCodecs } from '../engine/worker/codecs'
import { Session } from '../engine/session'

const seconds = 20
const rate = makeRate(25)

/** Seconds that a night takes, from its start until the last file is proven, and those of its steps. */
export interface Night {
  readonly all: number
  readonly steps: ReadonlyMap<string, number>
}

export const partsText = (steps: Night['steps']) =>
  [...steps].map(([kind, s]) => `${kind} ${s.toFixed(1)} s`).join(', ')

let stations = 0

/** A station of one region, the whole of a reel, for an outlet of each kind of recipe. */
export async function station(
  folder: string,
  workers: number,
  kinds: readonly string[],
  reel = 'reel.mp4',
): Promise<Session> {
  const data = path.join(folder, `data-${stations++}`)
  const session = await Session.open({ data, roots: [folder], workers, analyse: false })
  const root = session.roots.list[0]!.name
  const t = await session.timelines.bringIn({ root, path: reel })
  const regions = [{ id: 'r', name: 'whole', in: 0, out: t.model.length, metadata: {} }]
  await session.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  for (const kind of kinds) {
    const recipe = shippedRecipes().find((r) => r.kind === kind)!
    const place = { pattern: `${stations}-${kind}`, root, folder: 'out' }
    await session.outlets.save({ id: kind, name: kind, recipe, spec: 'open', ...place })
    await session.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: kind }], true)
  }
  return session
}

/** Works through the night of a station as it stands. */
export async function worked(session: Session, workers: number): Promise<Night> {
  while ((await session.nights.judged()).some((d) => d.undecided)) await sleep(100)
  const run = await session.nights.start('bench', workers)
  const began = performance.now()
  while ((await session.progress.list())[0]!.state === 'running') await sleep(20)
  const all = (performance.now() - began) / 1000
  for (const item of (await session.progress.view(run)).items)
    if (item.state !== 'done') fail('bench.failed', item.problem?.message ?? 'A file was not made.')
  const rows = await session.db
    .selectFrom('step')
    .select(['kind', 'started', 'finished'])
    .where('run_id', '=', run)
    .execute()
  const steps = new Map<string, number>()
  for (const s of rows) steps.set(s.kind, (steps.get(s.kind) ?? 0) + (s.finished! - s.started!) / 1000)
  return { all, steps }
}

/** A night of a station of its own. */
async function night(folder: string, workers: number, kinds: readonly string[], reel?: string): Promise<Night> {
  const session = await station(folder, workers, kinds, reel)
  const done = await worked(session, workers)
  await session.close()
  return done
}

/** A minute of 1080 lines and sixteen tracks as a broadcast master, proven, against real time. */
export async function sixteenTracks(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  await mkdir(folder)
  const shots = [{ scene: 'bell' as const, frames: 60 * 25, name: 'bell', reel: 'BELL', clean: true }]
  const channels = Array.from({ length: 16 }, (_, c) =>
    Float32Array.from({ length: 60 * 48000 }, (_v, i) => 0.02 * (c + 1) * Math.sin(i / (15 + c))),
  )
  const plan = { width: 1920, height: 1080, rate, dropFrame: false, start: 0, shots, bitrate: 6_000_000 }
  const coded = { pictures: 'h264', sound: 'pcm', container: 'mov', channels } as const
  await makeReel(path.join(folder, 'reel.mov'), { ...plan, ...coded }, machineCodecs())
  const { all, steps } = await night(folder, 2, ['broadcast'], 'reel.mov')
  print('a minute of 16 tracks, proven, workers: 2', `${(60 / all).toFixed(2)} × real time (${partsText(steps)})`)
}

/**
 * A viewing copy of 1080 lines at 720, proven, against real time, with one worker and with two; then that with a master
 * and the sound of the same region in one night, against the dearest of them alone.
 */
export async function copying(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  await mkdir(folder)
  const shots = [{ scene: 'bell' as const, frames: seconds * 25, name: 'bell', reel: 'BELL', clean: true }]
  const sound = Float32Array.from({ length: seconds * 48000 }, (_, i) => 0.2 * Math.sin(i / 15))
  const plan = { width: 1920, height: 1080, rate, dropFrame: false, start: 0, shots, bitrate: 6_000_000 }
  const coded = { pictures: 'h264', sound: 'aac', container: 'mp4', channels: [sound, sound] } as const
  await makeReel(path.join(folder, 'reel.mp4'), { ...plan, ...coded }, machineCodecs())
  const told = ({ all, steps }: Night) => `${(seconds / all).toFixed(2)} × real time (${partsText(steps)})`
  let dearest = 0
  for (const workers of [1, 2]) {
    const made = await night(folder, workers, ['viewing'])
    print(`viewing copy 1080 to 720, proven, workers: ${workers}`, `${told(made)} goal ≥ ${workers === 1 ? 1.5 : 2.8}`)
    dearest = made.all
  }
  const master = await night(folder, 2, ['master'])
  print('uncompressed master, proven, workers: 2', told(master))
  dearest = Math.max(dearest, master.all)
  const three = await night(folder, 2, ['viewing', 'master', 'sound'])
  print(
    'viewing copy, master and sound, workers: 2',
    `${(three.all / dearest).toFixed(2)} × the dearest alone (${three.all.toFixed(1)} s; goal ≤ 1.3)`,
  )
}
