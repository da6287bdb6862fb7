import { fail } from '../../../core/problem'
import { stillFormats } from '../../../core/stills/registry'
import type { DeliverableStep } from '../context'
import { firstInFile } from '../making/frames'
import { stillsOf, type MadeStills } from '../making/stillfiles'

/**
 * Copies stills: samples as they stand, each file decoded once to see that it is whole and like the others. Those that
 * cannot be decoded, where that was accepted, go as they are.
 */
export async function copyStills(step: DeliverableStep): Promise<MadeStills> {
  const { item, source, range } = step
  const moved = stillFormats.find((f) => f.codec === item.output.video?.codec)?.moved
  const stills = await stillsOf(step)
  const first = firstInFile(step)
  let at = range.in
  for (const { file, range: own } of source.copy(range)) {
    const { still, stillAsIs } = file
    if (!still || !stillAsIs)
      return fail('copy.stills', 'The source holds no stills to be copied.', item.target.path, 'Use a rewrap.')
    for (let frame = own.in; frame < own.out; frame++, at++) {
      const n = first + at - range.in
      if (item.damaged?.some((r) => at >= r.in && at < r.out)) await stills.keep(n, await stillAsIs(frame))
      else {
        const bytes = await still(frame)
        await stills.keep(n, moved ? moved(bytes, stills.placeOf(n)) : bytes)
      }
    }
  }
  return stills.made()
}
