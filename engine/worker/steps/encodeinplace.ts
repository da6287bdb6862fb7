import path from 'node:path'
import { pictureCodec } from '../../../core/codec/registry'
import { pictureKilobits } from '../../../core/recipe/trial'
import type { DeliverableStep } from '../context'
import { videoEssence } from '../essence'
import { firstInFile, picturesOf } from '../frames'
import { sharedFile } from '../sharedfile'
import { unitLayout } from '../units'

/** Makes one segment of a file of constant picture size: pictures and their sound, written into place. */
export async function encodeInPlace(step: DeliverableStep): Promise<{ file: string }> {
  const { item, source, folder, claim } = step
  const v = item.output.video!
  const bitrate = pictureKilobits(item.recipe) * 1000
  const encode = pictureCodec(v.codec)!.encode!
  const { units, samplesBefore } = unitLayout(step, encode.frameBytes!(v, bitrate))
  const name = 'inplace'
  const { width, height, scan } = v
  const { colour, pixelAspect } = videoEssence(step, null)
  const first = firstInFile(step)
  const encoder = encode.open(
    {
      ...{ width, height, scan, pixelAspect, bitrate, first },
      ...{ rate: v.rate, start: item.output.start, ...(colour ? { colour } : {}) },
    },
    step.codecs,
  )
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
      const lines = await source.linesOf(n)
      for (const unit of encoder.take())
        written = Promise.all(units.unit(n, unit.bytes, sound, lines).map((p) => sink.write(p.at, p.bytes)))
      // a failure is met with the next picture or at the end
      written.catch(() => undefined)
      step.progress(++done * (item.output.perFrame ?? 1))
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
