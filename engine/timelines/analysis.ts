import { openTracks } from '../../core/codec/sound'
import { isKnownCodec } from '../../core/codec/registry'
import { unitsTell } from '../../core/codec/unitfacts'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { FilePath } from '../../core/media/filepath'
import type { MediaInfo } from '../../core/media/media'
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
  await askOfFiles(db, queue, t)
  if (!known.has(sound) && (t.linking || t.info.audio.length === 0 || openTracks(t.info.audio).length > 0))
    await queue.offer([backgroundOffer('analyse-sound', { fact: sound, source }, workFrames(length, rate))])
  // pictures that nobody decodes are not looked through
  const seen = t.linking || t.info.video.every((v) => isKnownCodec(v.codec))
  if (known.has(pictures) || t.info.video.length === 0 || !seen) return
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

type MediaFile = FilePath & { readonly fingerprint: Fingerprint; readonly info: MediaInfo | undefined }

/** What is asked of each file by itself: its fact, the work, and of which files. A sum tells it from others later. */
const ofFiles = [
  { kind: 'sum-media', key: factKeys.sum, of: () => true },
  {
    kind: 'read-units',
    key: factKeys.units,
    of: (f: MediaFile) => (f.info?.video ?? []).some((v) => unitsTell(v.codec)),
  },
]

/** Asks for what is not known yet of the files that a timeline is made from. */
async function askOfFiles(db: Db, queue: Queue, t: SplitTimeline): Promise<void> {
  const { linking } = t
  const files: MediaFile[] = linking
    ? linking.assembly.sources.map((s, i) => ({ ...s, info: linking.infos[i] }))
    : [{ ...t.file, fingerprint: t.fingerprint, info: t.info }]
  const asked = ofFiles.flatMap(({ kind, key, of }) =>
    files.filter(of).map((f) => ({ kind, fact: key(f.fingerprint), file: f })),
  )
  const facts = asked.map((a) => a.fact)
  const known = await readFacts(db, facts)
  const missing = asked.filter((a, i) => !known.has(a.fact) && facts.indexOf(a.fact) === i)
  await queue.offer(
    missing.map(({ kind, fact, file: { root, path: file, fingerprint } }) =>
      backgroundOffer(kind, { fact, source: { root, path: file, fingerprint } }, 1, 'before'),
    ),
  )
}
