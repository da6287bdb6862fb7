import path from 'node:path'
import type { Frames } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'
import { firstInFile } from './frames'
import { sharedFile } from './sharedfile'
import { unitLayout } from './units'

/**
 * Writes pictures that are all of `pictureBytes`, each with its sound, into their places of a file that other steps
 * write into as well. `coded` gives them with their frames of the file, in order.
 */
export async function writeInPlace(
  step: DeliverableStep,
  pictureBytes: number,
  coded: AsyncIterable<{ readonly n: Frames; readonly bytes: Uint8Array }>,
): Promise<{ file: string }> {
  const { item, source, folder, claim } = step
  const { units, samplesBefore } = unitLayout(step, pictureBytes)
  const name = 'inplace'
  const sink = await sharedFile(path.join(folder, name), claim.takenOver)
  try {
    if (firstInFile(step) === 0) {
      await sink.write(0, units.head)
      await sink.write(units.tail.at, units.tail.bytes)
    }
    // a picture is written while the next one is made
    let written: Promise<unknown> = Promise.resolve()
    let done = 0
    for await (const { n, bytes } of coded) {
      await written
      const from = samplesBefore(n)
      const sound = item.output.audio ? await source.soundOf(from, samplesBefore(n + 1) - from) : []
      const lines = await source.linesOf(n)
      written = Promise.all(units.unit(n, bytes, sound, lines).map((p) => sink.write(p.at, p.bytes)))
      // a failure is met with the next picture or at the end
      written.catch(() => undefined)
      step.progress(++done * (item.output.perFrame ?? 1))
    }
    await written
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  }
  return { file: name }
}
