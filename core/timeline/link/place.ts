import type { MediaInfo } from '../../media/media'
import type { FrameRange } from '../../time/range'
import { sameRate, type Frames, type Rate } from '../../time/rate'
import { mulDivFloor } from '../../time/samples'
import { timecodeToFrames } from '../../time/timecode'
import { sourceFrame, type Clip, type TimelineEvent } from '../model'
import type { Link } from './source'

// Where in a media file the frames of a clip are.

/** The frames of a clip's source that an event shows, transition handles included: [in, out). */
export function taken(e: TimelineEvent, c: Clip, length: Frames): FrameRange {
  const first = sourceFrame(c.source!, c.speed, 0)
  const last = sourceFrame(c.source!, c.speed, Math.max(0, length - 1))
  return { in: Math.min(first, last), out: Math.max(first, last) + 1 }
}

/** Media's own length and label in the frames a clip's source counts in. */
export function placeIn(info: MediaInfo, rate: Rate): { start: Frames | null; length: Frames } {
  const v = info.video[0]
  const length =
    v?.rateStated === false
      ? v.frames
      : v
        ? mulDivFloor(v.frames, rate.num * v.rate.den, rate.den * v.rate.num)
        : mulDivFloor(info.audio[0]?.samples ?? 0, rate.num, (info.audio[0]?.sampleRate ?? 48000) * rate.den)
  if (info.timecode) {
    const t = info.timecode
    if (sameRate(t.rate, rate) || v?.rateStated === false) return { start: t.startFrames, length }
    // another rate counts other frames: the label's hours, minutes and seconds are what both share
    const m = /^(\d\d):(\d\d):(\d\d)[:;](\d+)$/.exec(t.start)
    const frames =
      m &&
      Math.min(
        Math.round(rate.num / rate.den) - 1,
        Math.round((Number(m[4]) * rate.num * t.rate.den) / (rate.den * t.rate.num)),
      )
    return {
      start: m ? timecodeToFrames(Number(m[1]), Number(m[2]), Number(m[3]), frames!, { rate, dropFrame: false }) : null,
      length,
    }
  }
  // a broadcast wave file counts samples since midnight (EBU Tech 3285)
  const a = info.audio[0]
  if (info.bext && info.bext.timeReference > 0 && a)
    return { start: Math.round((info.bext.timeReference * rate.num) / (a.sampleRate * rate.den)), length }
  return { start: null, length }
}

/** How far a file covers what a clip takes, and from where its frames count. */
export function cover(c: Clip, range: FrameRange, info: MediaInfo): { offset: Frames; missing: Frames } {
  const { start, length } = placeIn(info, c.source!.rate)
  const lacking = (offset: Frames) => Math.max(0, offset - range.in) + Math.max(0, range.out - offset - length)
  const options =
    start === null
      ? c.available && c.available.in > 0
        ? [c.available.in, 0]
        : [0]
      : [start, ...(start === 0 ? [] : [0])]
  const best = options
    .map((offset) => ({ offset, missing: lacking(offset) }))
    .sort((a, b) => a.missing - b.missing || options.indexOf(a.offset) - options.indexOf(b.offset))[0]!
  return best
}

/** The media frame a source frame is, by whole frames or, where the media runs at another rate, by time. */
export function mediaFrame(frame: Frames, link: Pick<Link, 'offset'>, source: Rate, media: Rate): Frames {
  const n = frame - link.offset
  return sameRate(source, media) ? n : mulDivFloor(n, media.num * source.den, media.den * source.num)
}
