import type { AudioInfo, Media, MediaInfo, StartTimecode } from '../media/media'
import { hasFields } from '../media/scan'
import { plural } from '../text'
import { silencedText } from '../media/presentation'
import { dropping, tellsDropping } from '../media/starttimecode'
import type { Problem } from '../problem'
import { saidLayout } from '../sound/layout'
import { tracksOf, type Output } from '../recipe/output'
import { countsSamples, makeRate, nominalRate, sameRate, type Frames, type Rate } from '../time/rate'
import type { FrameRange } from '../time/range'
import { formatTimecode, type TimeBase } from '../time/timecode'
import { stillFormats } from '../stills/registry'
import type { StillTrait } from '../stills/still'
import type { Described, Evidence } from './measure'

/**
 * The label of a start as rules write it: those count frames, so that of sound alone a whole second ends in `:00`, and
 * only what lies between shows its samples.
 */
function startLabel(frames: Frames, base: TimeBase): string {
  const second = countsSamples(base.rate) && frames % nominalRate(base.rate) === 0
  return second ? formatTimecode(frames, base).replace(/:0+$/, ':00') : formatTimecode(frames, base)
}

/** Pictures as stills of a format say them: that there are fields, and not which comes first; else what is usual. */
function asStillsSay(v: NonNullable<Output['video']>, told: readonly StillTrait[]): NonNullable<Described['video']> {
  const fields = told.includes('fields')
  return {
    ...v,
    scan: fields && hasFields(v.scan) ? 'interlaced' : 'progressive',
    ...(fields ? {} : { untold: [...new Set([...(v.untold ?? []), 'scan' as const])] }),
    pixelAspect: told.includes('shape') ? v.pixelAspect : '1:1',
    ...(told.includes('rate') ? {} : { rateStated: false }),
  }
}

/** What the settings will give. */
export function describedOutput(o: Output, base: TimeBase): Described {
  const format = o.container === 'stills' ? stillFormats.find((f) => f.codec === o.video?.codec) : undefined
  const told = format?.tells(base.rate)
  const saysDropped = !told || told.includes('dropped') || tellsDropping(o.start.frames, o.frames, base)
  const start = {
    ...{ label: startLabel(o.start.frames, base), dropFrame: saysDropped ? o.start.dropFrame : null },
    ...(o.video ? { rate: base.rate } : {}),
  }
  return {
    container: o.container,
    indexAt: o.indexAt,
    structure: o.structure ? { bodies: { count: 1, longest: o.frames, rate: base.rate }, ...o.structure } : null,
    bytes: o.bytes,
    bytesOff: o.bytesOff ?? null,
    video: o.video && told ? asStillsSay(o.video, told) : o.video,
    audio: o.audio?.each ? { ...o.audio, layout: saidLayout(o.audio.each) } : o.audio,
    ...(o.video && o.audio
      ? { apart: apart(o.frames, base.rate, [{ samples: o.samples, sampleRate: o.audio.sampleRate }]), late: 0 }
      : {}),
    durationSeconds: (o.frames * base.rate.den) / base.rate.num,
    durationText: formatTimecode(o.frames, base),
    start: told && !told.includes('timecode') ? null : start,
  }
}

/** Frames between the ends of so many pictures and of sound, of whichever track is furthest off. */
const apart = (frames: Frames, { num, den }: Rate, sound: readonly Pick<AudioInfo, 'samples' | 'sampleRate'>[]) =>
  Math.max(...sound.map((a) => Math.abs(a.samples * num - frames * a.sampleRate * den) / (a.sampleRate * den)))

/** How many bits of a file's samples carry anything, where they are whole numbers. */
export function carriedIn(media: Media | null, bits: number | null): Evidence['carried'] {
  return media?.audio.some((track) => track.pcm?.kind === 'float') ? 'floats' : bits
}

/** The access units of a file's pictures; absent of a file without any. */
export function unitsOf({ video: [track] }: Pick<Media, 'video'>): Pick<Evidence, 'units'> {
  if (!track) return {}
  let [bytes, least, most] = [0, Infinity, 0]
  for (let i = 0; i < track.sampleCount; i++) {
    const { size } = track.sample(i)
    bytes += size
    least = Math.min(least, size)
    most = Math.max(most, size)
  }
  return { units: { ...{ count: track.sampleCount, bytes, least, most }, rate: track.info.rate } }
}

/** What is not whole in a file, of what was found while it was opened. */
export const damageOf = (info: MediaInfo): Problem[] => info.problems.filter((p) => p.damage)

/** Pictures that could not be decoded, as what is not whole of a file; `base` labels the first of them. */
export function damagedPictures(
  damaged: readonly FrameRange[] | undefined,
  base: TimeBase & { readonly start: Frames },
): Problem[] {
  return (damaged ?? []).map((r) => {
    const [first, last] = [r.in, r.out - 1].map((n) => formatTimecode(base.start + n, base))
    const which = first === last ? `The picture at ${first}` : `Pictures from ${first} to ${last}`
    return {
      code: 'media.undecodable',
      damage: true,
      message: `${which} cannot be decoded.`,
      fix: 'Copy the file again from where it came from; where it is accepted, the picture before stands in.',
    }
  })
}

/** A timecode as a file says it; where it does not tell whether labels are dropped, spelt as `base` has them. */
const startSaid = (t: StartTimecode, base: TimeBase | null) => ({
  label: base && sameRate(base.rate, t.rate) ? dropping(t, base.dropFrame).start : t.start,
  dropFrame: t.dropUntold ? null : t.dropFrame,
  rate: t.rate,
})

/**
 * What a file's own headers say: of a source, or of a file as written. `base` labels durations and wave time
 * references, and is what pictures run at that say no rate; null where nothing is known of that.
 */
export function describedMedia(info: MediaInfo, base: TimeBase | null): Described {
  const v = info.video[0]
  const a = info.audio[0]
  const t = info.timecode
  // a run that is counted by its numbers says no timecode
  let start: Described['start'] = t && !t.numbered ? startSaid(t, base) : null
  if (!start && info.bext && a) {
    const of = base ?? { rate: makeRate(a.sampleRate), dropFrame: false }
    const frames = Math.round((info.bext.timeReference * of.rate.num) / (a.sampleRate * of.rate.den))
    start = { label: startLabel(frames, of), dropFrame: of.dropFrame }
  }
  const unrated = v?.rateStated === false && !base
  const timeBase = base ?? (v ? { rate: v.rate, dropFrame: false } : null)
  const frames =
    info.durationFrames ?? (timeBase ? Math.round((info.durationSeconds * timeBase.rate.num) / timeBase.rate.den) : 0)
  return {
    container: info.container,
    indexAt: info.indexAt,
    structure: info.structure ?? null,
    bytes: info.size,
    ...(v && a
      ? {
          apart: apart(v.frames, v.rate, info.audio),
          late: Math.max(...info.audio.map((x) => (x.lead ?? 0) / x.sampleRate)),
        }
      : {}),
    video: v ?? null,
    pictureTracks: info.video.length,
    audio: a
      ? {
          ...a,
          channels: info.audio.reduce((n, t) => n + t.channels, 0),
          tracks: info.audio.length,
          silenced: silencedText(info.audio),
          ...(info.audio.length > 1 ? { each: tracksOf(info) } : {}),
          layout: saidLayout(info.audio),
        }
      : null,
    durationSeconds: v?.rateStated === false ? base && (frames * base.rate.den) / base.rate.num : info.durationSeconds,
    durationText: unrated
      ? plural(frames, 'frame')
      : timeBase
        ? formatTimecode(frames, timeBase)
        : `${info.durationSeconds.toFixed(2)} s`,
    start,
  }
}
