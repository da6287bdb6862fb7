import type { MediaInfo } from '../../media/media'
import { soundRate } from '../../sound/tracks'
import { overlaps, type FrameRange } from '../../time/range'
import { sameRate } from '../../time/rate'
import { sampleAtFrame } from '../../time/samples'
import { isNormal, type TimelineEvent } from '../model'
import { channelsOf, routeOfClip, type Assembly, type ClipLink } from './assembly'

/** A stretch of one source that is copied untouched. */
export interface CopyPart {
  readonly source: number
  readonly range: FrameRange
}

/**
 * The stretches of sources a range can be copied from untouched, one after the other; else why not. Several must stand
 * alone frame by frame and be of one kind.
 */
export function copySource(
  a: Assembly,
  range: FrameRange,
  infos: readonly (MediaInfo | null)[],
): { readonly parts: readonly CopyPart[] } | { readonly why: string } {
  const t = a.timeline
  const events = t.events.map((e, i) => ({ e, link: a.links[i]!.clip })).filter((x) => overlaps(x.e.record, range))
  const pictures = events.filter((x) => x.e.kind === 'video').sort((x, y) => x.e.record.in - y.e.record.in)
  const sounds = events.filter((x) => x.e.kind === 'audio' && x.e.source)
  if (pictures.length === 0) return { why: 'it has no pictures' }
  const parts: CopyPart[] = []
  let at = range.in
  for (const { e, link } of pictures) {
    if (e.record.in < at && parts.length > 0) return { why: 'there are layers in it' }
    if (e.record.in > at) return { why: 'there are gaps in it' }
    at = e.record.out
    const within = { in: Math.max(range.in, e.record.in), out: Math.min(range.out, e.record.out) }
    const part = copyPart(a, e, link, within, sounds, infos)
    if ('why' in part) return part
    parts.push(part)
  }
  if (at < range.out) return { why: 'there are gaps in it' }
  const used = parts.map((p) => infos[p.source]!)
  const alike = (of: (i: MediaInfo) => unknown) => new Set(used.map((i) => JSON.stringify(of(i)))).size === 1
  if (parts.length > 1) {
    if (!used.every((i) => i.video[0]!.intra))
      return { why: `its pictures come from ${parts.length} events, and frames lean on others` }
    if (!alike(({ video: [v] }) => [v!.codec, v!.chroma, v!.bitDepth, v!.pixelAspect, v!.scan, v!.colour, v!.alpha]))
      return { why: 'its sources are of different kinds' }
    if (
      !used.every((i) => i.audio.every((x) => x.codec === 'pcm')) ||
      !alike((i) => i.audio.map((x) => [x.channels, x.sampleRate, x.bitDepth]))
    )
      return { why: 'the sound of its sources cannot be joined untouched' }
  }
  return { parts }
}

/** One event of a range as a stretch to be copied: pictures and all its sound from the same place of one file. */
function copyPart(
  a: Assembly,
  e: TimelineEvent,
  link: ClipLink | null,
  range: FrameRange,
  sounds: readonly { readonly e: TimelineEvent; readonly link: ClipLink | null }[],
  infos: readonly (MediaInfo | null)[],
): CopyPart | { readonly why: string } {
  const t = a.timeline
  if (!e.source) return { why: 'there is black in it' }
  if (!link) return { why: 'its media is missing' }
  if (e.transition && e.record.in + e.transition.frames > range.in) return { why: 'there is a transition in it' }
  if (!isNormal(e.speed)) return { why: 'its speed is changed' }
  const info = infos[link.source]
  const v = info?.video[0]
  const stills = info?.container === 'stills'
  if (info && !stills && !['mp4', 'mov'].includes(info.container))
    return { why: 'its source is no MP4 or MOV file, and no stills' }
  if (!info || !v || !sameRate(v.rate, t.rate) || !sameRate(e.source.rate, t.rate))
    return { why: 'its source runs at another rate' }
  if (v.width !== a.raster.width || v.height !== a.raster.height || a.wider?.[link.source])
    return { why: 'its source has another raster' }
  const first = e.source.in - link.offset + range.in - e.record.in
  if (first < 0 || first + range.out - range.in > v.frames) return { why: 'its source is too short' }
  const copied = { source: link.source, range: { in: first, out: first + range.out - range.in } }
  // there is no sound among stills, whatever there is in the timeline
  if (stills) return copied
  const all = channelsOf(info)
  const carried = new Set<number>()
  for (const s of sounds) {
    if (!overlaps(s.e.record, range)) continue
    const same =
      s.link &&
      s.link.source === link.source &&
      isNormal(s.e.speed) &&
      !s.e.gain &&
      !s.e.transition &&
      s.e.source!.in - s.link.offset - s.e.record.in === e.source.in - link.offset - e.record.in &&
      s.e.record.in <= range.in &&
      s.e.record.out >= range.out
    if (!same) return { why: 'its sound is not that of its pictures, untouched' }
    for (const [from, to] of routeOfClip(t, s.e, s.link!, all)) {
      if (from !== to) return { why: 'its sound channels are in another order' }
      if (carried.has(to)) return { why: 'its sound tracks are mixed' }
      carried.add(to)
    }
  }
  if (carried.size !== all)
    return {
      why: carried.size ? 'it takes only some of the sound channels' : 'its source has sound, and the timeline none',
    }
  if (carried.size && soundRate(info.audio) !== a.sampleRate) return { why: 'its sound runs at another rate' }
  if (info.audio.some((x) => x.samples < sampleAtFrame(first + range.out - range.in, t.rate, x.sampleRate) - 1))
    return { why: 'the sound of its source ends before its pictures' }
  return copied
}
