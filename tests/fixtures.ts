import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { deliverableOf, type Deliverable } from '../contract/deliverables'
import { keyText, type Outlet } from '../core/deliverable/outlet'
import type { Recipe } from '../core/recipe/recipe'
import { shippedRecipes } from '../core/recipe/registry'
import type { FrameRange } from '../core/time/range'
import { sampleAtFrame } from '../core/time/samples'
import { makeRate, type Rate } from '../core/time/rate'
import { timecodeToFrames } from '../core/time/timecode'
import { makeReel, type ReelPlan, type ReelShot } from '../demo/reel'
import { abilityNames, machineAbilities, machineCodecs } from '../engine/worker/codecs'
import { Session } from '../engine/session'
import type { RunView } from '../contract/runs'
import { localPorts } from '../engine/worker/localports'
import { work } from '../engine/worker/loop'

export const rates: readonly { name: string; rate: Rate; dropFrame: boolean }[] = [
  { name: '25', rate: makeRate(25), dropFrame: false },
  { name: '29.97 drop-frame', rate: makeRate(30000, 1001), dropFrame: true },
  { name: '23.976', rate: makeRate(24000, 1001), dropFrame: false },
]

export const shot = (scene: ReelShot['scene'], frames: number): ReelShot => ({
  scene,
  frames,
  name: scene,
  reel: scene.toUpperCase().slice(0, 8),
})

/** A short reel of 120 frames with the frame number drawn in, and a rising tone that makes every sample its own. */
export function smallPlan(changes: Partial<ReelPlan> = {}): ReelPlan {
  const rate = changes.rate ?? makeRate(25)
  const dropFrame = changes.dropFrame ?? false
  const shots = changes.shots ?? [shot('chainWide', 50), shot('bell', 40), shot('gannets', 30)]
  const samples = sampleAtFrame(
    shots.reduce((n, s) => n + s.frames, 0),
    rate,
    48000,
  )
  const sweep = (phase: number) =>
    Float32Array.from(
      { length: samples },
      (_, i) => 0.25 * Math.sin(phase + 2 * Math.PI * (i / 48000) * (300 + i / 400)),
    )
  return {
    width: 640,
    height: 360,
    rate,
    dropFrame,
    start: timecodeToFrames(10, 0, 59, 0, { rate, dropFrame })!,
    shots,
    pictures: 'h264',
    sound: 'pcm',
    container: 'mov',
    bitrate: 1_500_000,
    channels: [sweep(0), sweep(0.7)],
    ...changes,
  }
}

/** A folder that is gone when the test file ends. */
export function scratchFolder(): { folder: string; remove: () => void } {
  const folder = mkdtempSync(path.join(tmpdir(), 'velvet-test-'))
  return { folder, remove: () => rmSync(folder, { recursive: true, force: true }) }
}

export async function smallReel(file: string, changes: Partial<ReelPlan> = {}): Promise<ReelPlan> {
  const plan = smallPlan(changes)
  await makeReel(file, plan, machineCodecs())
  return plan
}

export function recipe(kind: string, changes: Partial<Recipe> = {}): Recipe {
  return { ...shippedRecipes().find((r) => r.kind === kind)!, ...changes }
}

export function outlet(id: string, root: string, r: Recipe, changes: Partial<Outlet> = {}): Outlet {
  return { id, name: id, recipe: r, spec: 'open', pattern: '{number}_{region}', root, folder: `out/${id}`, ...changes }
}

/**
 * An engine over a folder `storage` below `folder`, without worker processes: {@link drain} works in the test's own.
 */
export function testEngine(folder: string): Promise<Session> {
  return Session.open({
    data: path.join(folder, 'data'),
    roots: [{ name: 'storage', path: path.join(folder, 'storage') }],
    workers: 0,
  })
}

/** A worker in the test's own process: works until `stopping` says so. */
export async function workHere(engine: Session, index: number, stopping: () => boolean): Promise<void> {
  const ports = await localPorts(engine.db, engine.roots, engine.folders.cache)
  const abilities = abilityNames(await machineAbilities())
  await work(ports, { id: `test-${index}-${Math.random()}`, index, abilities, places: null }, stopping)
  ports.sources.close()
}

/** Every deliverable, judged, as the stations get them. */
export async function deliverables(engine: Session): Promise<Deliverable[]> {
  return (await engine.nights.judged()).map(deliverableOf)
}

/** The run started last. */
export async function latestRun(engine: Session): Promise<RunView> {
  const [newest] = await engine.progress.list()
  return engine.progress.view(newest!.id)
}

/** Works until nothing is left to do but what waits for a storage root; what deliverables wish to know included. */
export async function drain(engine: Session): Promise<void> {
  const left = () =>
    engine.db
      .selectFrom('step')
      .leftJoin('run', 'run.id', 'step.run_id')
      .select('step.id')
      .where('step.state', 'in', ['ready', 'claimed', 'waiting'])
      .where((e) => e.or([e('step.run_id', 'is', null), e('run.state', '=', 'running')]))
      .where((e) =>
        e.not(
          e.exists(
            e
              .selectFrom('step as a')
              .select('a.id')
              .whereRef('a.deliverable_id', '=', 'step.deliverable_id')
              .where('a.state', '=', 'aside'),
          ),
        ),
      )
      .executeTakeFirst()
  do {
    let done = false
    const watching = (async () => {
      while (await left()) await new Promise((r) => setTimeout(r, 20))
      done = true
    })()
    await workHere(engine, 1, () => done)
    await watching
    await engine.nights.judged()
  } while (await left())
}

/** What is delivered in a test: a range of a file in the storage folder, by a recipe, under a name of its own. */
export interface Delivery {
  readonly name: string
  readonly file: string
  readonly range: FrameRange
  readonly by: Recipe
  /** What is asked of it; `open` when absent. */
  readonly spec?: string
}

/** Brings a file in where it is not there yet, and delivers a range of it by a night; its only deliverable. */
export async function deliver(engine: Session, delivery: Delivery): Promise<RunView['items'][number]> {
  const { name, file, range, by, spec = 'open' } = delivery
  const there = (await engine.timelines.list()).find((x) => x.file.path === file)
  const t = there ?? (await engine.timelines.bringIn({ root: 'storage', path: file }))
  const split = { regions: [{ id: 'r', name: 'Fog Bell', ...range, metadata: {} }], markers: [] }
  if (!t.split.regions.some((x) => x.id === 'r')) await engine.timelines.saveSplit(t.id, split, t.splitVersion)
  await engine.outlets.save(outlet(name, 'storage', by, { spec }))
  const key = { timelineId: t.id, regionId: 'r', outletId: name }
  await engine.outlets.choose([key], true)
  // before the night its region is measured, and its media held against lists of checksums beside it
  await engine.timelines.media.look()
  await drain(engine)
  await engine.nights.start(name, 2, [keyText(key)])
  await drain(engine)
  const { items } = await latestRun(engine)
  return items[0]!
}
