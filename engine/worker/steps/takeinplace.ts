import { framesInFile } from '../../../core/lineup/lineup'
import type { DeliverableStep } from '../context'
import { openEarlier } from '../earlier'
import { firstInFile } from '../frames'
import { writeInPlace } from '../inplace'
import { encodeInPlace, pictureBytesOf } from './encodeinplace'

/** Takes one segment of coded pictures from an earlier file and writes it, with its sound, into place. */
export async function takeInPlace(step: DeliverableStep): Promise<{ file: string }> {
  const earlier = await openEarlier(step)
  if (!earlier) return encodeInPlace(step)
  const first = firstInFile(step)
  const end = first + framesInFile(step.item.output, step.range.out - step.range.in)
  const coded = async function* () {
    for (let n = first; n < end; n++) yield { n, bytes: await earlier.unit(n) }
  }
  try {
    return await writeInPlace(step, pictureBytesOf(step), coded())
  } finally {
    await earlier.close()
  }
}
