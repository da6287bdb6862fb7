import type { SplitTimeline } from '../../core/split/timeline'
import { pieces } from '../../core/time/range'
import { workFrames } from '../../core/time/samples'
import type { Queue } from '../queue/port'
import { segmentLength } from '../storage/framestore'
import type { Db } from '../store/database'
import { factKeys, readFacts, writeFact } from '../store/facts'
import { backgroundOffer } from '../worker/background'

/** Queues what is not known yet about a timeline's media; only notes where it lies when nothing is to be analysed. */
export async function askForAnalysis(db: Db, queue: Queue, t: SplitTimeline, analysing: boolean): Promise<void> {
  if (t.linking) await writeFact(db, factKeys.assembly(t.fingerprint), t.linking.assembly)
  if (!analysing) return
  const { rate, length } = t.model
  const source = { ...t.file, fingerprint: t.fingerprint, ...(t.linking ? { assembled: true } : {}) }
  const [pictures, sound] = [factKeys.pictures(t.fingerprint), factKeys.sound(t.fingerprint)]
  const known = await readFacts(db, [pictures, sound])
  await askForSums(db, queue, t)
  if (!known.has(sound))
    await queue.offer([backgroundOffer('analyse-sound', { fact: sound, source }, workFrames(length, rate))])
  if (known.has(pictures) || t.info.video.length === 0) return
  const segments = pieces({ in: 0, out: length }, segmentLength).map((range, k) => ({
    range,
    key: factKeys.segment(t.fingerprint, k),
  }))
  const done = await readFacts(
    db,
    segments.map((s) => s.key),
  )
  // a pass that was broken off goes on where it was; a merge that was lost is asked for again by its last segment
  const missing = segments.filter(
    (s, i) => !done.has(s.key) || (done.size === segments.length && i === segments.length - 1),
  )
  await queue.offer(
    missing.map(({ key, range }) =>
      backgroundOffer('analyse-segment', { fact: key, source, range, frames: length }, range.out - range.in, 'before'),
    ),
  )
}

/** Asks for the sums of media that are not known yet, to tell it from others later. */
async function askForSums(db: Db, queue: Queue, t: SplitTimeline): Promise<void> {
  const files = t.linking ? t.linking.assembly.sources : [{ ...t.file, fingerprint: t.fingerprint }]
  const keys = files.map((f) => factKeys.sum(f.fingerprint))
  const known = await readFacts(db, keys)
  const missing = files.filter((_, i) => !known.has(keys[i]!) && keys.indexOf(keys[i]!) === i)
  await queue.offer(
    missing.map(({ root, path: file, fingerprint }) =>
      backgroundOffer(
        'sum-media',
        { fact: factKeys.sum(fingerprint), source: { root, path: file, fingerprint } },
        1,
        'before',
      ),
    ),
  )
}
