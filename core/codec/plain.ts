import { readExactly } from '../bytes'
import type { Media, VideoTrack } from '../media/media'
import type { Picture } from '../picture/picture'
import { fail } from '../problem'
import type { FrameRange } from '../time/range'
import type { EncodedUnit, Encoder, PictureCodec } from './codec'

/** An encoder of pictures that stand alone: each is a unit as soon as it is fed. */
export function plainEncoder(unitOf: (picture: Picture) => Uint8Array): Encoder<Picture> {
  let ready: EncodedUnit[] = []
  return {
    feed(picture) {
      ready.push({ bytes: unitOf(picture), sync: true })
      return Promise.resolve()
    },
    take() {
      const units = ready
      ready = []
      return units
    },
    flush: () => Promise.resolve(),
    configuration: () => null,
    close: () => undefined,
  }
}

/** Decoding of a codec whose pictures are all of one size and stand alone. */
export function plainPictures(
  frameBytes: (width: number, height: number) => number,
  decode: (bytes: Uint8Array, width: number, height: number) => Picture,
): PictureCodec['decode'] {
  async function* read(media: Media, track: VideoTrack, range: FrameRange) {
    const { width, height } = track.info
    const size = frameBytes(width, height)
    for (let frame = range.in; frame < range.out; frame++) {
      const s = track.sample(track.sampleOfFrame(frame))
      if (s.size < size)
        fail(
          'media.short-frame',
          `Frame ${frame} has ${s.size} bytes; ${width}×${height} needs ${size}.`,
          media.source.name,
          'The file is damaged; copy it again from where it came from.',
        )
      yield { frame, picture: decode(await readExactly(media.source, s.offset, size), width, height) }
    }
  }
  return {
    needsWeb: false,
    open: (media, track) => ({ frames: track.info.frames, read: (range) => read(media, track, range) }),
  }
}
