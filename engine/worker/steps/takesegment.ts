import type { EncodedUnit, Encoder } from '../../../core/codec/codec'
import type { DeliverableStep } from '../context'
import { framesTaken, looksAtTimeline, openEarlier, type EarlierPictures } from '../making/earlier'
import { unitSummer } from '../making/looks'
import { encodePiece, type Piece } from '../making/pieces'
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
  const own = framesTaken(step)
  const sum = await unitSummer()
  let sums = ''
  const units = async function* () {
    for (let n = own.in; n < own.out; n++) {
      yield { bytes: await earlier.unit(n), sync: earlier.track.sample(n).sync }
      step.progress(n - own.in)
    }
  }
  try {
    const piece = await encodePiece(step, asTheyAre(earlier), units, (u) => (sums += sum(u.bytes)))
    return { ...piece, coded: { sums, looks: [await looksAtTimeline(step)] } }
  } finally {
    await earlier.close()
  }
}
