import { tracer, type Trace } from '../../../core/analysis/trace'
import type { EncodedUnit, Encoder } from '../../../core/codec/codec'
import { framesInFile } from '../../../core/lineup/lineup'
import type { DeliverableStep } from '../context'
import { openEarlier, type EarlierPictures } from '../earlier'
import { firstInFile, picturesOf } from '../frames'
import { lookedAt, saveLooks, unitSummer } from '../looks'
import { encodePiece, type Piece } from '../pieces'
import { encodeSegment } from './encodesegment'

/** Gives coded pictures as they are, in the place of an encoder. */
function asTheyAre({ track }: EarlierPictures): Encoder<EncodedUnit> {
  let ready: EncodedUnit[] = []
  return {
    async feed(unit) {
      ready.push(unit)
    },
    take() {
      const units = ready
      ready = []
      return units
    },
    flush: async () => undefined,
    configuration: () => track.configuration,
    close: () => undefined,
  }
}

/**
 * Takes one segment of coded pictures from an earlier file. Some of the timeline's are looked at as if they were to be
 * encoded, so that the proof holds what was taken against them.
 */
export async function takeSegment(step: DeliverableStep): Promise<Piece> {
  const earlier = await openEarlier(step)
  if (!earlier) return encodeSegment(step)
  const { item, range } = step
  const { perFrame = 1 } = item.output
  const first = firstInFile(step)
  const end = first + framesInFile(item.output, range.out - range.in)
  const sum = await unitSummer()
  let sums = ''
  const units = async function* () {
    for (let n = first; n < end; n++) {
      yield { bytes: await earlier.unit(n), sync: earlier.track.sample(n).sync }
      step.progress(n - first)
    }
  }
  try {
    const piece = await encodePiece(step, asTheyAre(earlier), units, (u) => (sums += sum(u.bytes)))
    const { take, pause } = tracer()
    const looks: Trace[] = []
    for (const n of lookedAt(item)) {
      if (n < first || n >= end) continue
      const from = range.in + (n - first) * perFrame
      for await (const { picture } of picturesOf({ ...step, range: { in: from, out: from + perFrame } })) {
        pause()
        looks.push(take(picture))
      }
    }
    return { ...piece, coded: { sums, looks: [await saveLooks(step, looks)] } }
  } finally {
    await earlier.close()
  }
}
