import { pictureCodec } from '../../../core/codec/registry'
import { stepKind } from '../../../core/job/steps'
import { pictureKilobits } from '../../../core/recipe/trial'
import type { DeliverableStep } from '../context'
import { videoEssence } from '../making/essence'
import { firstInFile, picturesOf } from '../making/frames'
import { writeInPlace } from '../making/inplace'
import { looksForProof, unitSummer, type PartInPlace } from '../making/looks'

const bitrateOf = ({ item }: DeliverableStep) => pictureKilobits(item.recipe) * 1000

/** Bytes of each coded picture of a deliverable whose pictures are all of one size. */
export function pictureBytesOf(step: DeliverableStep): number {
  const v = step.item.output.video!
  return pictureCodec(v.codec)!.encode!.frameBytes!(v, bitrateOf(step))
}

/** A file that a step wrote its part into, and what is known of the pictures in it, where they are a timeline's. */
export interface InPlace {
  readonly file: string
  readonly part?: PartInPlace
}

/** Makes one segment of a file of constant picture size: pictures and their sound, written into place. */
export async function encodeInPlace(step: DeliverableStep): Promise<InPlace> {
  const { output } = step.item
  const v = output.video!
  const { width, height, scan } = v
  const { colour, pixelAspect } = videoEssence(step, null)
  const first = firstInFile(step)
  const encoder = pictureCodec(v.codec)!.encode!.open(
    {
      ...{ width, height, scan, pixelAspect, bitrate: bitrateOf(step), first },
      ...{ rate: v.rate, start: output.start, ...(colour ? { colour } : {}) },
    },
    step.codecs,
  )
  const looks = looksForProof(step)
  const sum = await unitSummer()
  let sums = ''
  const coded = async function* () {
    for await (const { n, picture } of picturesOf(step)) {
      looks.take(n, picture)
      await encoder.feed(picture)
      for (const { bytes } of encoder.take()) {
        sums += sum(bytes)
        yield { n, bytes }
      }
    }
  }
  try {
    const { file } = await writeInPlace(step, pictureBytesOf(step), coded())
    if (stepKind(step.claim.kind).ofFile) return { file }
    return { file, part: { first, sums, looks: [await looks.save()] } }
  } finally {
    encoder.close()
  }
}
