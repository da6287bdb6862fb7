import path from 'node:path'
import { pictureCodec } from '../../../core/codec/registry'
import type { DeliverableStep } from '../context'
import { videoEssence } from '../essence'
import { sharedFile } from '../sharedfile'
import { unitLayout } from '../units'

/** Makes one segment of a file of constant picture size: pictures and their sound, written into place. */
export async function encodeInPlace(step: DeliverableStep): Promise<{ file: string }> {
  const { item, source, range, folder, claim } = step
  const size = pictureCodec(item.output.video!.codec)!.encode!.frameBytes!(item.output.video!)
  const { units, samplesBefore, first } = unitLayout(step, size)
  const v = item.output.video!
  const name = 'inplace'
  const { width, height, scan } = v
  const { colour } = videoEssence(step, null)
  const settings = { width, height, scan, rate: item.timeline.rate, bitrate: 0, ...(colour ? { colour } : {}) }
  const encoder = pictureCodec(v.codec)!.encode!.open(settings, step.codecs)
  const sink = await sharedFile(path.join(folder, name), claim.takenOver)
  try {
    if (range.in === item.region.in) {
      await sink.write(0, units.head)
      await sink.write(units.tail.at, units.tail.bytes)
    }
    // a picture is written while the next one is made
    let written: Promise<unknown> = Promise.resolve()
    for await (const { frame, picture } of source.pictures().read(range)) {
      const n = frame - item.region.in
      await encoder.feed(source.render(picture, frame))
      await written
      const from = samplesBefore(n)
      const sound = item.output.audio ? await source.soundOf(first + from, samplesBefore(n + 1) - from) : []
      for (const unit of encoder.take())
        written = Promise.all(units.unit(n, unit.bytes, sound).map((p) => sink.write(p.at, p.bytes)))
      // a failure is met with the next picture or at the end
      written.catch(() => undefined)
      step.progress(frame - range.in + 1)
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
