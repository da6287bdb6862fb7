import path from 'node:path'
import { pictureCodec } from '../../../core/codec/registry'
import type { DeliverableStep } from '../context'
import { videoEssence } from '../essence'
import { firstInFile, picturesOf } from '../frames'
import { sharedFile } from '../sharedfile'
import { unitLayout } from '../units'

/** Makes one segment of a file of constant picture size: pictures and their sound, written into place. */
export async function encodeInPlace(step: DeliverableStep): Promise<{ file: string }> {
  const { item, source, folder, claim } = step
  const size = pictureCodec(item.output.video!.codec)!.encode!.frameBytes!(item.output.video!)
  const { units, samplesBefore } = unitLayout(step, size)
  const v = item.output.video!
  const name = 'inplace'
  const { width, height, scan } = v
  const { colour } = videoEssence(step, null)
  const first = firstInFile(step)
  const settings = { width, height, scan, rate: item.timeline.rate, bitrate: 0, first, ...(colour ? { colour } : {}) }
  const encoder = pictureCodec(v.codec)!.encode!.open(settings, step.codecs)
  const sink = await sharedFile(path.join(folder, name), claim.takenOver)
  try {
    if (first === 0) {
      await sink.write(0, units.head)
      await sink.write(units.tail.at, units.tail.bytes)
    }
    // a picture is written while the next one is made
    let written: Promise<unknown> = Promise.resolve()
    let done = 0
    for await (const { n, picture } of picturesOf(step)) {
      await encoder.feed(picture)
      await written
      const from = samplesBefore(n)
      const sound = item.output.audio ? await source.soundOf(from, samplesBefore(n + 1) - from) : []
      for (const unit of encoder.take())
        written = Promise.all(units.unit(n, unit.bytes, sound).map((p) => sink.write(p.at, p.bytes)))
      // a failure is met with the next picture or at the end
      written.catch(() => undefined)
      step.progress(++done)
    }
    await written
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  } finally {
    encoder.close()
  }
  return { file: name }
}
