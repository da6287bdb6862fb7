import { createHash } from 'node:crypto'
import { stat } from 'node:fs/promises'
import path from 'node:path'
import type { Draft } from '../../core/deliverable/draft'
import { freeze } from '../../core/deliverable/freeze'
import { judgeDraft, nothingKnown } from '../../core/deliverable/judged'
import { day } from '../../core/deliverable/names'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { tryoutDraft, type TryoutRequest } from '../../core/deliverable/tryout'
import { fail } from '../../core/problem'
import { fileNameOf } from '../../core/recipe/registry'
import { workFrames } from '../../core/time/samples'
import type { Frames } from '../../core/time/rate'
import type { Tryout, TryoutState } from '../../contract/tryouts'
import type { Nights } from '../deliverables/nights'
import type { OfferedStep, Queue } from '../queue/port'
import { cacheRoot } from '../storage/home'
import { clearTryouts } from '../storage/tryouts'
import type { Db } from '../store/database'
import { problemOf } from '../store/deliverables'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'
import type { FrameRef, Looked } from '../worker/messages'
import type { WorkerPool } from '../worker/pool'
import { passesOfTryout, type Tried } from '../worker/steps/tryout'

/** Stretches of regions, made with settings that are to be compared before some of them are chosen. */
export class Tryouts {
  constructor(
    private readonly db: Db,
    private readonly queue: Queue,
    private readonly nights: Nights,
    private readonly pool: WorkerPool,
    private readonly cache: string,
  ) {}

  /** Has a stretch made, unless it was already, or cannot be. */
  async start(request: TryoutRequest): Promise<Tryout> {
    const draft = tryoutDraft(await this.nights.situation(), request)
    const { region, output } = draft
    const stretch = { in: region.in, out: region.out, output }
    if (output.problems.length > 0) return { id: null, ...stretch }
    const item = frozen(draft)
    if (!(await this.made(item.id))) {
      await clearTryouts(this.cache)
      await this.queue.offer([offerOf(item)])
    }
    return { id: item.id, ...stretch }
  }

  /** How far a stretch is. */
  async state(id: string): Promise<TryoutState> {
    const made = await this.made(id)
    if (made) {
      const { seconds, pictures, fingerprint } = made
      return { state: 'made', share: 1, problem: null, made: { bytes: fingerprint.size, seconds, pictures } }
    }
    const row = await this.db
      .selectFrom('step')
      .select(['id', 'state', 'frames_done', 'frames_total', 'problem'])
      .where('run_id', 'is', null)
      .where('key', '=', factKeys.tryout(id))
      .where('state', '!=', 'done')
      .executeTakeFirst()
    const about = { share: 0, problem: row ? problemOf(row) : null, made: null }
    if (!row) return { ...about, state: 'gone' }
    if (row.state === 'failed') return { ...about, state: 'failed' }
    if (row.state !== 'claimed') return { ...about, state: 'waiting' }
    return { ...about, state: 'making', share: row.frames_done / Math.max(1, row.frames_total) }
  }

  /** Gives up a stretch that is not made yet. */
  async stop(id: string): Promise<void> {
    // who has it in hand finds its claim lost
    await this.db.deleteFrom('step').where('run_id', 'is', null).where('key', '=', factKeys.tryout(id)).execute()
  }

  /** A picture of a stretch by its number, as PNG. */
  async picture(id: string, frame: Frames): Promise<Looked> {
    const { source } = await this.frameOf(id, frame)
    return this.pool.look(source, frame, { as: 'exact' })
  }

  /** Where a picture of a stretch is. */
  async frameOf(id: string, frame: Frames): Promise<FrameRef> {
    const made = await this.made(id)
    if (!made || !Number.isInteger(frame) || frame < 0 || frame >= made.pictures.bytes.length)
      return fail('frame.outside', `There is no picture ${frame} of this stretch.`, id, 'Have it made again.')
    return { source: { root: cacheRoot, path: made.file, fingerprint: made.fingerprint }, frame }
  }

  /** What came of a stretch whose file is still there. */
  private async made(id: string): Promise<Tried | null> {
    const key = factKeys.tryout(id)
    const tried = (await readFacts(this.db, [key])).get(key) as Tried | undefined
    if (!tried) return null
    const there = await stat(path.join(this.cache, tried.file)).catch(() => null)
    return there?.size === tried.fingerprint.size ? tried : null
  }
}

/** A stretch as it is made, known by what its file follows from. */
function frozen(draft: Draft): FrozenDeliverable {
  const name = fileNameOf(draft.recipe, draft.region.name || 'stretch', draft.output)
  const target = { path: name, version: 1, bad: null }
  const known = nothingKnown(target)
  const item = freeze(judgeDraft(draft, known), '', day(new Date()))
  const { source, assembly, region, recipe, output, route } = item
  const from = JSON.stringify([source.fingerprint.content, source.scan, assembly, region, recipe, output, route])
  return { ...item, id: createHash('sha256').update(from).digest('hex').slice(0, 24) }
}

function offerOf(item: FrozenDeliverable): OfferedStep {
  const { source, assembly, region, timeline, steps } = item
  const range = { in: region.in, out: region.out }
  const payload = {
    ...{ fact: factKeys.tryout(item.id), item, range },
    source: { ...source, ...(assembly ? { assembled: true } : {}) },
  }
  const frames = workFrames(range.out - range.in, timeline.rate) * passesOfTryout
  return { ...backgroundOffer('tryout', payload, frames), abilities: [...new Set(steps.flatMap((s) => s.abilities))] }
}
