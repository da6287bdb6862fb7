import { readExactly } from '../../../core/bytes'
import { canDecodePictures } from '../../../core/codec/pictures'
import { sameNative, type Media } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import { recipeKind } from '../../../core/recipe/registry'
import type { Frames } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'
import { placeOfFrame } from '../making/coded'
import { copiedFilms } from '../making/copied'

/** Whether a file's pictures are copied that cannot be decoded here: they are held against their source as coded. */
export const isCopiedBlindly = ({ item: { output, recipe }, codecs }: DeliverableStep): boolean =>
  output.video !== null && recipeKind(recipe).copies && !canDecodePictures(output.video.codec, codecs)

const bytesOf = (media: Media, frame: Frames) => {
  const track = media.video[0]!
  const { offset, size } = track.sample(track.sampleOfFrame(frame))
  return readExactly(media.source, offset, size)
}

/** Holds every coded picture of a file, and how they are described, against those of its source, byte by byte. */
export async function checkCopied(step: DeliverableStep, written: Media): Promise<void> {
  const again = 'Run it again; if it happens again, report it with the run sheet.'
  let n = 0
  for (const { media, range } of copiedFilms(step)) {
    if (!sameNative(media.video[0]!.native, written.video[0]!.native))
      fail(
        'prove.copied',
        'The pictures of the file are described otherwise than its source’s.',
        placeOfFrame(step, n),
        again,
      )
    for (let frame = range.in; frame < range.out; frame++, n++) {
      const [own, there] = await Promise.all([bytesOf(media, frame), bytesOf(written, n)])
      if (Buffer.compare(own, there) !== 0)
        fail(
          'prove.copied',
          'A picture of the file is not, byte by byte, the one of its source.',
          placeOfFrame(step, n),
          again,
        )
      step.progress(n)
    }
  }
}
