import type { Media, VideoTrack } from '../media/media'
import { toNarrowRange } from '../picture/range'
import { fail } from '../problem'
import type { Frames } from '../time/rate'
import type { PictureSource } from './codec'
import { labels, pictureCodec, pictureCodecs } from './registry'
import type { WebCodecs } from './web/webcodecs'

/** Codecs whose pictures can be decoded here. */
export function canDecodePictures(codec: string, codecs: WebCodecs | null): boolean {
  const known = pictureCodec(codec)
  return known !== null && (!known.decode.needsWeb || codecs !== null)
}

/** A source over the first picture track of a file. */
export function openPictures(media: Media, codecs: WebCodecs | null): PictureSource {
  const track = media.video[0] ?? fail('media.no-pictures', 'There are no pictures in this file.', media.source.name)
  const codec =
    pictureCodec(track.info.codec) ??
    fail(
      'codec.unknown',
      `Pictures of kind “${track.info.codec}” cannot be decoded here.`,
      media.source.name,
      `Ask for ${labels(pictureCodecs)} pictures. A rewrap is still possible.`,
    )
  const source = { ...codec.decode.open(media, track, codecs), after: anewAfter(track) }
  return track.info.colour?.fullRange ? narrowed(source) : source
}

/** The first frame behind one that is decoded from another sync sample. */
const anewAfter = (track: VideoTrack) => (frame: Frames) => {
  const sync = track.syncBefore(track.sampleOfFrame(frame))
  let next = frame + 1
  while (next < track.info.frames && track.syncBefore(track.sampleOfFrame(next)) === sync) next++
  return next
}

/** Pictures of full range brought to narrow range, in which everything here is worked out. */
const narrowed = (source: PictureSource): PictureSource => ({
  ...source,
  async *read(range) {
    for await (const { frame, picture } of source.read(range)) yield { frame, picture: toNarrowRange(picture) }
  },
})
