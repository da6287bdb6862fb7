import type { Media, VideoInfo, VideoTrack } from '../media/media'
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
  const opened = codec.decode.open(media, track, codecs)
  // a container may be wrong of pictures that do not say their size in front
  const told = !codec.decode.needsWeb || codec.describe(track.configuration, null).width !== undefined
  const source = { ...(told ? ofOneSize(opened, track.info, media.source.name) : opened), after: anewAfter(track) }
  return track.info.colour?.fullRange ? narrowed(source) : source
}

/** Pictures of which each is as large as it is to be: what is measured of one of them is said of all. */
const ofOneSize = (source: PictureSource, { width, height }: VideoInfo, where: string): PictureSource => ({
  ...source,
  async *read(range) {
    for await (const { frame, picture } of source.read(range)) {
      if (picture.width !== width || picture.height !== height)
        fail(
          'media.undecodable',
          `Frame ${frame} is of ${picture.width}×${picture.height} where the file is of ${width}×${height}.`,
          where,
          'Ask for a file of one size throughout.',
        )
      yield { frame, picture }
    }
  },
})

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
