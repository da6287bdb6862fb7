import { setTimeout as sleep } from 'node:timers/promises'
import { toProblem } from '../../core/problem'
import { sheetItemSchema, type FrozenAssembly, type Fingerprint } from '../../core/deliverable/sheet'
import type { FrameRange } from '../../core/time/range'
import { machineAbilities, machineCodecs } from './codecs'
import type { Db, TaskRow } from '../store/database'
import { Cancelled, Dispatch } from '../queue/sqlite'
import { factKeys, readFacts, writeFact } from '../store/facts'
import type { DataFolders } from '../storage/home'
import { segmentLength } from '../storage/framestore'
import type { Roots } from '../storage/roots'
import type { SourcePlace } from './source'
import { clearScratch, openItem, scratchOf, type TaskContext } from './context'
import { hear, measureSound } from './steps/analysesound'
import { lookAtSegment, measurePictures, sumUpPictures } from './steps/analysepictures'
import { masterSegment } from './steps/master'
import { prove } from './steps/prove'
import { rewrap } from './steps/rewrap'
import { writeSound } from './steps/writesound'
import { viewingJoin, viewingSegment, viewingSound } from './steps/viewing'
import { writeReport } from '../runs/report'

export interface WorkPlace {
  readonly db: Db
  readonly roots: Roots
  readonly folders: DataFolders
}

/** Payload of the background tasks. */
export interface BackgroundPayload {
  readonly fact: string
  readonly place: {
    readonly root: string
    readonly path: string
    readonly fingerprint: Fingerprint
    readonly assembled?: boolean
  }
  readonly range?: FrameRange
  readonly rate?: { readonly num: number; readonly den: number }
  readonly route?: readonly number[]
  /** Frames of all segments of a pass. */
  readonly frames?: number
}

/** Takes tasks and does them until told to stop. Every worker process, and a test in its own process, runs this. */
export async function work(place: WorkPlace, owner: string, index: number, stopping: () => boolean): Promise<void> {
  const dispatch = new Dispatch(place.db)
  let idle = 20
  while (!stopping()) {
    const task = await dispatch.claim(owner, index).catch(() => null)
    if (!task) {
      idle = Math.min(idle * 1.5, 400)
      await sleep(idle)
      continue
    }
    idle = 20
    await doTask(place, dispatch, task)
  }
}

async function doTask(place: WorkPlace, dispatch: Dispatch, task: TaskRow): Promise<void> {
  let said = 0
  const context: TaskContext = {
    ...place,
    codecs: machineCodecs(),
    abilities: await machineAbilities(),
    async progress(frames) {
      const now = Date.now()
      if (now - said < 400) return
      said = now
      await dispatch.heartbeat(task, frames)
    },
  }
  try {
    await dispatch.finished(task, await (task.item_id ? doStep(context, dispatch, task) : doBackground(context, task)))
  } catch (e) {
    if (e instanceof Cancelled) return
    await dispatch.failed(task, toProblem(e)).catch(() => undefined)
  }
}

async function doBackground(context: TaskContext, task: TaskRow): Promise<null> {
  const p = JSON.parse(task.payload) as BackgroundPayload
  const key = factKeys.assembly(p.place.fingerprint)
  const place: SourcePlace = p.place.assembled
    ? { ...p.place, assembly: (await readFacts(context.db, [key])).get(key) as FrozenAssembly }
    : p.place
  const run = {
    'analyse-segment': () => lookAtSegment(context, place, p.range!),
    'merge-segments': () => sumUpPictures(context, place, p.range!),
    'analyse-sound': () => hear(context, place, task.frames_total),
    'measure-sound': () => measureSound(context, place, p.range!, p.rate!, p.route!),
    'measure-pictures': () => measurePictures(context, place, p.range!),
  }[task.kind]
  await writeFact(context.db, p.fact, await run?.())
  if (task.kind === 'analyse-segment') await mergeWhenComplete(context, p)
  return null
}

/** The last segment of a pass calls for the merge. */
async function mergeWhenComplete(context: TaskContext, p: BackgroundPayload): Promise<void> {
  const segments = Math.ceil(p.frames! / segmentLength)
  const keys = Array.from({ length: segments }, (_, k) => factKeys.segment(p.place.fingerprint, k))
  if ((await readFacts(context.db, keys)).size < segments) return
  const fact = factKeys.pictures(p.place.fingerprint)
  await new Dispatch(context.db).addBackground(
    'merge-segments',
    fact,
    { fact, place: p.place, range: { in: 0, out: p.frames! } } satisfies BackgroundPayload,
    p.frames!,
  )
}

async function doStep(context: TaskContext, dispatch: Dispatch, task: TaskRow): Promise<unknown> {
  const row = await context.db.selectFrom('item').select('sheet').where('id', '=', task.item_id!).executeTakeFirst()
  if (!row) throw new Cancelled()
  const item = sheetItemSchema.parse(JSON.parse(row.sheet))
  const { range } = JSON.parse(task.payload) as { range: FrameRange }
  const source = await openItem(context, item)
  try {
    const folder = await scratchOf(context, item, task.run_id!)
    switch (task.kind) {
      case 'rewrap':
        return await rewrap(context, source, folder)
      case 'write-sound':
        return await writeSound(context, source, folder)
      case 'encode-sound':
        return await viewingSound(context, source, folder)
      case 'segment':
        return await (item.recipe.kind === 'master'
          ? masterSegment(context, source, range, folder)
          : viewingSegment(context, source, range, folder, task.key))
      case 'join':
        return await viewingJoin(context, source, folder)
      case 'prove': {
        const { proof, finalPath } = await prove(context, source, folder)
        await writeReport(context, task.run_id!, item)
        await dispatch.endItem(item.id, 'done', null, proof, finalPath)
        return null
      }
    }
  } catch (e) {
    if (!(e instanceof Cancelled))
      await scratchOf(context, item, task.run_id!)
        .then(clearScratch)
        .catch(() => undefined)
    throw e
  } finally {
    await source.close()
  }
}
