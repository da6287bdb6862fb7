import type { MediaInfo, StartTimecode } from '../../media/media'
import { dropping, stretchesOf, type Stretch } from '../../media/starttimecode'
import type { FrameRange } from '../../time/range'
import { sameRate, type Frames, type Rate } from '../../time/rate'
import { mulDivFloor } from '../../time/samples'
import { formatTimecode, framesPerDay, timecodeToFrames, type TimeBase } from '../../time/timecode'
import { sourceFrame, type Clip, type SourceRange, type TimelineEvent } from '../model'
import type { Link } from './source'

// Where in a media file the frames of a clip are.

/** The frames of a clip's source that an event shows, transition handles included: [in, out). */
export function taken(e: TimelineEvent, c: Clip, length: Frames): FrameRange {
  const first = sourceFrame(c.source!, c.speed, 0)
  const last = sourceFrame(c.source!, c.speed, Math.max(0, length - 1))
  return { in: Math.min(first, last), out: Math.max(first, last) + 1 }
}

/** Media's length in frames of a rate. */
function lengthAt({ video: [v], audio: [a] }: MediaInfo, rate: Rate): Frames {
  if (v?.rateStated === false) return v.frames
  if (v) return mulDivFloor(v.frames, rate.num * v.rate.den, rate.den * v.rate.num)
  return mulDivFloor(a?.samples ?? 0, rate.num, (a?.sampleRate ?? 48000) * rate.den)
}

/** What is counted past midnight has labels of the next day as well. */
const withNextDay = (counted: readonly Stretch[], base: TimeBase): Stretch[] => {
  const day = framesPerDay(base)
  return counted.flatMap((s) => (s.count + s.frames > day ? [s, { ...s, count: s.count - day }] : [s]))
}

/** How media counts, in the frames a clip's source counts in: by stretches that count on, none where it has no clock */
export function placeIn(
  info: MediaInfo,
  { rate, dropFrame = false }: Pick<SourceRange, 'rate' | 'dropFrame'>,
): { counted: readonly Stretch[]; length: Frames } {
  const length = lengthAt(info, rate)
  const t = info.timecode && dropping(info.timecode, dropFrame)
  if (t) {
    if (sameRate(t.rate, rate) || info.video[0]?.rateStated === false)
      return { counted: withNextDay(stretchesOf(t, length), t), length }
    const scaled = (frames: Frames) => mulDivFloor(frames, rate.num * t.rate.den, rate.den * t.rate.num)
    const counted = stretchesOf(t, lengthAt(info, t.rate)).map(({ at, count, frames }) => ({
      ...{ at: scaled(at), count: recounted(count, t, rate) },
      frames: scaled(at + frames) - scaled(at),
    }))
    return { counted: withNextDay(counted, { rate, dropFrame: false }), length }
  }
  // a broadcast wave file counts samples since midnight (EBU Tech 3285)
  const a = info.audio[0]
  const reference = info.bext && info.bext.timeReference > 0 ? info.bext.timeReference : null
  if (reference === null || !a) return { counted: [], length }
  const count = Math.round((reference * rate.num) / (a.sampleRate * rate.den))
  return { counted: withNextDay([{ at: 0, count, frames: length }], { rate, dropFrame: false }), length }
}

/** What another rate counts at a label: its hours, minutes and seconds are what both share. */
function recounted(count: Frames, t: StartTimecode, rate: Rate): Frames {
  const [h, m, s, f] = formatTimecode(count, t).split(/[:;]/).map(Number) as [number, number, number, number]
  const most = Math.round(rate.num / rate.den) - 1
  const frames = Math.min(most, Math.round((f * rate.num * t.rate.den) / (rate.den * t.rate.num)))
  return timecodeToFrames(h, m, s, frames, { rate, dropFrame: false })!
}

/** How far a file covers what a clip takes, from where its frames count, and whether it counts that twice. */
export function cover(
  c: Clip,
  range: FrameRange,
  info: MediaInfo,
): { offset: Frames; missing: Frames; twice: boolean } {
  const { counted, length } = placeIn(info, c.source!)
  const whole = (count: Frames): Stretch => ({ at: 0, count, frames: length })
  const unclocked = c.available && c.available.in > 0 ? [whole(c.available.in), whole(0)] : [whole(0)]
  const own = counted.length ? counted : unclocked
  // lists that take no notice of the clock count from nought
  const options = own.some((s) => s.at === 0 && s.count === 0 && s.frames === length) ? own : [...own, whole(0)]
  const scored = options.map(({ at, count, frames }) => ({
    offset: count - at,
    missing: Math.max(0, count - range.in) + Math.max(0, range.out - count - frames),
  }))
  const best = scored.reduce((a, b) => (b.missing < a.missing ? b : a))
  return { ...best, twice: scored.slice(0, counted.length).filter((s) => s.missing === 0).length > 1 }
}

/** Frames at the end of what a clip takes in which its file has pictures, but no longer sound. */
export function soundless(c: Clip, range: FrameRange, { offset }: Pick<Link, 'offset'>, info: MediaInfo): Frames {
  const [v] = info.video
  if (!v || v.rateStated === false || info.audio.length === 0) return 0
  const { rate } = c.source!
  const sounding = info.audio.map((a) => mulDivFloor(a.samples - 1, rate.num, a.sampleRate * rate.den) + 1)
  return Math.min(range.out - range.in, Math.max(0, range.out - offset - Math.max(...sounding)))
}

/** The media frame a source frame is, by whole frames or, where the media runs at another rate, by time. */
export function mediaFrame(frame: Frames, link: Pick<Link, 'offset'>, source: Rate, media: Rate): Frames {
  const n = frame - link.offset
  return sameRate(source, media) ? n : mulDivFloor(n, media.num * source.den, media.den * source.num)
}
