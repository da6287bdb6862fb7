import type { DeliverableStep } from '../context'
import { framesTaken, looksAtTimeline, openEarlier } from '../making/earlier'
import { writeInPlace } from '../making/inplace'
import { unitSummer } from '../making/looks'
import { encodeInPlace, pictureBytesOf, type InPlace } from './encodeinplace'

/**
 * Takes one segment of coded pictures from an earlier file and writes it, with its sound, into place. Some of the
 * timeline's are looked at as if they were to be encoded, so that the proof holds what was taken against them.
 */
export async function takeInPlace(step: DeliverableStep): Promise<InPlace> {
  const earlier = await openEarlier(step)
  if (!earlier) return encodeInPlace(step)
  const own = framesTaken(step)
  const sum = await unitSummer()
  let sums = ''
  const coded = async function* () {
    for (let n = own.in; n < own.out; n++) {
      const bytes = await earlier.unit(n)
      sums += sum(bytes)
      yield { n, bytes }
    }
  }
  try {
    const { file } = await writeInPlace(step, pictureBytesOf(step), coded())
    return { file, part: { first: own.in, sums, looks: [await looksAtTimeline(step)] } }
  } finally {
    await earlier.close()
  }
}
