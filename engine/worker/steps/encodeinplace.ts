import { pictureCodec } from '../../../core/codec/registry'
import { pictureKilobits } from '../../../core/recipe/trial'
import type { DeliverableStep } from '../context'
import { videoEssence } from '../making/essence'
import { firstInFile, picturesOf } from '../making/frames'
import { writeInPlace } from '../making/inplace'

const bitrateOf = ({ item }: DeliverableStep) => pictureKilobits(item.recipe) * 1000

/** Bytes of each coded picture of a deliverable whose pictures are all of one size. */
export function pictureBytesOf(step: DeliverableStep): number {
  const v = step.item.output.video!
  return pictureCodec(v.codec)!.encode!.frameBytes!(v, bitrateOf(step))
}

/** Makes one segment of a file of constant picture size: pictures and their sound, written into place. */
export async function encodeInPlace(step: DeliverableStep): Promise<{ file: string }> {
  const { output } = step.item
  const v = output.video!
  const { width, height, scan } = v
  const { colour, pixelAspect } = videoEssence(step, null)
  const encoder = pictureCodec(v.codec)!.encode!.open(
    {
      ...{ width, height, scan, pixelAspect, bitrate: bitrateOf(step), first: firstInFile(step) },
      ...{ rate: v.rate, start: output.start, ...(colour ? { colour } : {}) },
    },
    step.codecs,
  )
  const coded = async function* () {
    for await (const { n, picture } of picturesOf(step)) {
      await encoder.feed(picture)
      for (const { bytes } of encoder.take()) yield { n, bytes }
    }
  }
  try {
    return await writeInPlace(step, pictureBytesOf(step), coded())
  } finally {
    encoder.close()
  }
}
