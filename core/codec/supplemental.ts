import { BitReader, unescapeNal } from '../bits'
import type { ByteSource } from '../bytes'
import type { Media, VideoInfo, VideoTrack } from '../media/media'
import { asked, type Presentation } from '../media/presentation'
import { pictureCodec } from './registry'
import { nalUnits, type NalUnits } from './nal'

// Messages that go with coded pictures and change what is seen of them: supplemental enhancement information of H.264
// and HEVC (ITU-T H.264 Annex D, H.265 Annex D), as far as the first picture has any.

/** Types of messages (H.264 table D.1.1; H.265 D.2.1). */
const [framePacking, displayOrientation, preferredTransfer] = [45, 47, 147]

/** Bytes of a picture that are looked at: messages stand in front of its slices. */
const most = 1 << 16

/** The messages in the units of an access unit, by their type; of two of one type the first (7.3.2.3.1). */
export function messagesIn(units: readonly Uint8Array[], nal: NalUnits): Map<number, Uint8Array> {
  const found = new Map<number, Uint8Array>()
  for (const unit of units) {
    if (unit.length <= nal.header || !nal.isMessages(unit[0]!)) continue
    const bytes = unescapeNal(unit.subarray(nal.header))
    let at = 0
    const coded = () => {
      let v = 0
      while (bytes[at] === 255) v += bytes[at++]!
      return v + (bytes[at++] ?? 0)
    }
    // one byte is left at the end, of the bit that stops it
    while (at + 2 < bytes.length) {
      const type = coded()
      const size = coded()
      if (!found.has(type)) found.set(type, bytes.subarray(at, at + size))
      at += size
    }
  }
  return found
}

/** What messages have players do to pictures (H.264 D.1.26, D.1.27; H.265 D.2.16, D.2.17). */
function presentedBy(messages: ReadonlyMap<number, Uint8Array>): Presentation {
  const orientation = messages.get(displayOrientation)
  const packing = messages.get(framePacking)
  const out: { -readonly [K in keyof Presentation]: Presentation[K] } = {}
  if (orientation) {
    const r = new BitReader(orientation)
    if (!r.flag()) {
      const [across, down] = [r.flag(), r.flag()]
      const left = Math.round((r.u(16) * 360) / 65536)
      if (across !== down) out.mirrored = true
      out.turned = (360 - left + (down ? 180 : 0)) % 360
    }
  }
  if (packing) {
    const r = new BitReader(packing)
    r.ue()
    // of type 6 are pictures of one view among others of two
    if (!r.flag() && r.u(7) !== 6) out.twoViews = true
  }
  return out
}

/** A description with what messages change of it; where a container places pictures they are placed so. */
function changedBy(v: VideoInfo, messages: ReadonlyMap<number, Uint8Array>): VideoInfo {
  const transfer = messages.get(preferredTransfer)?.[0]
  const isPlaced = v.presentation?.turned !== undefined || v.presentation?.mirrored
  const { twoViews, ...turns } = presentedBy(messages)
  const { presentation } = asked(v, { ...(twoViews ? { twoViews } : {}), ...(isPlaced ? {} : turns) })
  return {
    ...v,
    ...(presentation ? { presentation: { ...presentation, ...v.presentation } } : {}),
    ...(v.colour && transfer !== undefined && transfer !== 2 && transfer !== v.colour.transfer
      ? { colour: { ...v.colour, transfer }, statedTransfer: v.colour.transfer }
      : {}),
  }
}

async function described(source: ByteSource, track: VideoTrack): Promise<VideoInfo> {
  const nal = pictureCodec(track.info.codec)?.nal
  if (!nal || track.sampleCount === 0) return track.info
  const { offset, size } = track.sample(0)
  const bytes = await source.read(offset, Math.min(size, most))
  const messages = messagesIn(nalUnits(bytes, track.configuration, nal), nal)
  return messages.size ? changedBy(track.info, messages) : track.info
}

/** A file with what the messages in its first pictures change of them. */
export async function withMessages(media: Media): Promise<Media> {
  const [track, ...rest] = media.video
  if (!track) return media
  const info = await described(media.source, track)
  if (info === track.info) return media
  return {
    ...media,
    video: [{ ...track, info }, ...rest],
    info: { ...media.info, video: [info, ...media.info.video.slice(1)] },
  }
}
