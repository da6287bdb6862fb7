import type { Likeness } from '../../contract/timelines'
import type { SamePictures } from '../../core/analysis/samepictures'
import type { Problem } from '../../core/problem'
import type { SplitTimeline } from '../../core/split/timeline'
import type { Queue } from '../queue/port'
import type { Db } from '../store/database'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'

const sourceOf = (t: SplitTimeline) => ({
  ...{ ...t.file, fingerprint: t.fingerprint },
  ...(t.linking ? { assembled: true } : {}),
})

/**
 * Which pictures of a timeline are which of an older one, or how far that is; the workers are asked for it the first
 * time, and again where it failed if that is wished. Both have to be looked through before.
 */
export async function likenessOf(
  db: Db,
  queue: Queue,
  [older, t]: readonly [older: SplitTimeline, newer: SplitTimeline],
  again: boolean,
): Promise<Likeness> {
  const key = factKeys.samePictures(older.fingerprint, t.fingerprint)
  const seen = [factKeys.pictures(older.fingerprint), factKeys.pictures(t.fingerprint)]
  const facts = await readFacts(db, [key, ...seen])
  const same = facts.get(key) as SamePictures | undefined
  if (same) return { state: 'ready', share: 1, same, problem: null }
  if (!seen.every((k) => facts.has(k))) return { state: 'waiting', share: 0, same: null, problem: null }
  const frames = older.model.length + t.model.length
  const step = await db
    .selectFrom('step')
    .select(['state', 'frames_done', 'problem'])
    .where('run_id', 'is', null)
    .where('key', '=', key)
    .orderBy('id', 'desc')
    .executeTakeFirst()
  const underWay = step && ['ready', 'claimed', 'aside'].includes(step.state)
  if (step?.state === 'failed' && !again)
    return { state: 'failed', share: 0, same: null, problem: JSON.parse(step.problem ?? 'null') as Problem | null }
  if (!underWay) {
    const against = { older: sourceOf(older), frames: older.model.length }
    const payload = { fact: key, source: sourceOf(t), range: { in: 0, out: t.model.length }, against }
    await queue.offer([backgroundOffer('compare-pictures', payload, frames)])
  }
  return { state: 'working', share: (underWay ? step.frames_done : 0) / Math.max(1, frames), same: null, problem: null }
}
