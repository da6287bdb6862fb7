import { setTimeout as sleep } from 'node:timers/promises'
import type { FrozenAssembly } from '../../core/timeline/assembly/assembly'
import { accepting } from '../../core/codec/damage'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { ProblemError, toProblem } from '../../core/problem'
import type { FrameRange } from '../../core/time/range'
import { workFrames } from '../../core/time/samples'
import type { Frames } from '../../core/time/rate'
import { log } from '../log'
import { ClaimLost, renewEvery, type Claim } from '../queue/port'
import { scratchFolder } from '../storage/scratch'
import { factKeys } from '../store/facts'
import { Aside, asideFor, rootsOfDeliverable, rootsOfSource } from './aside'
import type { BackgroundPayload } from './background'
import { clearScratch, deliverableSource, type StepContext } from './context'
import type { WorkerPorts, WorkerProfile } from './ports'
import { Superseded } from './making/sharedfile'
import { SharedPictures } from './sources/sharedpictures'
import type { OpenSource } from './sources/source'
import { mergeWhenComplete } from './steps/analysepictures'
import { backgroundSteps } from './steps/background'
import { deliverableSteps, runnerOf } from './steps/registry'

/** Longest wait between two looks for work, ms. */
const longestWait = 400

/** Takes steps and does them until told to stop. Every worker process, and a test in its own process, runs this. */
export async function work(ports: WorkerPorts, worker: WorkerProfile, stopping: () => boolean): Promise<void> {
  let idle = 20
  while (!stopping()) {
    const claim = await ports.queue.claim(worker).catch((e: unknown) => {
      log().error({ err: e, worker: worker.id }, 'no step could be claimed')
      return null
    })
    if (claim) await doTogether(ports, worker, claim)
    else await sleep(idle)
    idle = claim ? 20 : Math.min(idle * 1.5, longestWait)
  }
}

/** Steps that are taken together. */
interface Group {
  readonly shared: SharedPictures | null
  /** Whether a storage root went while they were at it: others may still read from what is open. */
  stale: boolean
}

/** Does a step, and with it those that share what it reads: each by itself but for that. */
async function doTogether(ports: WorkerPorts, worker: WorkerProfile, claim: Claim): Promise<void> {
  const others = await ports.queue.companions(claim, worker).catch((e: unknown) => {
    log().error({ err: e, worker: worker.id }, 'no companions of a step could be claimed')
    return []
  })
  const all = [claim, ...others].map((c) => ({ ...c, together: others.length + 1 }))
  const group: Group = { shared: others.length ? new SharedPictures(all.map((c) => c.step)) : null, stale: false }
  await Promise.all(all.map((c) => doStep(ports, c, group).finally(() => group.shared?.leave(c.step))))
  // what is kept open of a disk that went does not come back with it
  if (group.stale) ports.sources.close()
}

/** Does one step. Its claim is renewed by a timer for as long as this process turns, whatever the step is doing. */
async function doStep(ports: WorkerPorts, claim: Claim, group: Group): Promise<void> {
  let done: Frames = 0
  let lost = false
  const renew = async () => {
    await ports.queue.renew(claim, done).catch((e: unknown) => {
      if (e instanceof ClaimLost) lost = true
    })
  }
  const timer = setInterval(() => void renew(), renewEvery)
  const context: StepContext = {
    ...ports,
    claim,
    progress(frames) {
      if (lost) throw new ClaimLost()
      done = frames
    },
    async hold() {
      await ports.queue.renew(claim, done)
    },
  }
  try {
    const result = await (claim.deliverable ? deliverableStep(context, group) : backgroundStep(context))
    await ports.queue.finish(claim, result)
  } catch (e) {
    await ended(ports, claim, e)
  } finally {
    clearInterval(timer)
  }
}

async function ended(ports: WorkerPorts, claim: Claim, e: unknown): Promise<void> {
  if (e instanceof ClaimLost) return
  if (e instanceof Superseded) {
    await ports.queue.release(claim)
    return
  }
  const { worker, kind, deliverable, run } = claim
  if (e instanceof Aside) {
    const { problem, roots } = e
    log().warn({ problem, worker, step: claim.key, kind, deliverable, run }, 'a step waits for a storage root')
    await ports.queue.setAside(claim, roots, problem)
    return
  }
  const message = e instanceof ProblemError ? e.problem.message : 'a step failed'
  log().error({ err: e, worker, step: claim.key, kind, deliverable, run }, message)
  await ports.queue.fail(claim, toProblem(e)).catch(() => undefined)
}

async function backgroundStep(context: StepContext): Promise<null> {
  const payload = context.claim.payload as BackgroundPayload
  const key = factKeys.assembly(payload.source.fingerprint)
  const ref = payload.source.assembled
    ? { ...payload.source, assembly: (await context.facts.read([key])).get(key) as FrozenAssembly }
    : payload.source
  const run = runnerOf(backgroundSteps, context.claim.kind)
  try {
    await context.facts.write(payload.fact, await run({ ...context, payload, ref }))
  } catch (e) {
    throw asideFor(context.storage, rootsOfSource(ref), context.claim, e) ?? e
  }
  await backgroundDone[context.claim.kind]?.(context, payload)
  return null
}

/** What follows once the fact of a kind of background work is kept. */
const backgroundDone: Readonly<Record<string, (c: StepContext, p: BackgroundPayload) => Promise<void>>> = {
  'analyse-segment': (context, p) => mergeWhenComplete(context, p),
}

/** A source in which others stand in for the pictures that a deliverable was accepted without. */
function standingIn(source: OpenSource, { damaged }: FrozenDeliverable): OpenSource {
  const shape = source.info.video[0]
  return damaged && shape ? { ...source, pictures: () => accepting(source.pictures(), damaged, shape) } : source
}

/** A source whose pictures come with those of other steps. */
const sharing = (source: OpenSource, shared: SharedPictures, member: number): OpenSource => ({
  ...source,
  pictures: () => shared.of(member, source.pictures()),
})

/** Whether what failed here is in other hands by now. */
async function isOthers(context: StepContext, e: unknown, aside: Aside | null): Promise<boolean> {
  const { claim, takenBack } = context
  try {
    await context.hold()
    return aside === null && ((await takenBack?.(claim, toProblem(e))) ?? false)
  } catch (lost) {
    return lost instanceof ClaimLost
  }
}

async function deliverableStep(context: StepContext, group: Group): Promise<unknown> {
  const { claim, storage, sources, sheets, installation } = context
  const run = runnerOf(deliverableSteps, claim.kind)
  const { shared } = group
  const item = await sheets.frozen(claim.deliverable!)
  if (!item) throw new ClaimLost()
  const { range } = claim.payload as { range: FrameRange }
  const { root } = item.target
  try {
    const folder = await scratchFolder(storage, root, installation, claim.run!, item.id)
    const source = await sources.get({ ...item.source, assembly: item.assembly ?? null })
    const needed = await context.queue.results(claim)
    const progress = (n: Frames) => context.progress(workFrames(n, item.timeline.rate))
    const table = item.recipe.table === null ? null : await context.table(item.recipe.table)
    const whole = standingIn(source, item)
    const own = deliverableSource(item, shared ? sharing(whole, shared, claim.step) : whole, table, shared)
    return await run({ ...context, progress, item, range, folder, needed, source: own })
  } catch (e) {
    if (e instanceof ClaimLost || e instanceof Superseded) throw e
    const aside = asideFor(storage, rootsOfDeliverable(item), claim, e)
    // what was taken away, or is taken back, goes on elsewhere
    if (await isOthers(context, e, aside)) throw new ClaimLost()
    // what fails leaves nothing behind; what waits goes on where it was
    if (!aside)
      await scratchFolder(storage, root, installation, claim.run!, item.id)
        .then(clearScratch)
        .catch(() => undefined)
    else group.stale = true
    throw aside ?? e
  }
}
