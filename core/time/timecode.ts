import { plural } from '../text'
import { countsSamples, framesToSeconds, nominalRate, unitOf, type Frames, type Rate } from './rate'
import { mulDivRound } from './samples'

/** What turns a frame count into a label: the rate and whether labels are dropped (SMPTE ST 12-1). */
export interface TimeBase {
  readonly rate: Rate
  readonly dropFrame: boolean
}

/** Drop-frame exists for 30000/1001 and 60000/1001 only. */
export function canDropFrame(rate: Rate): boolean {
  return rate.den === 1001 && (rate.num === 30000 || rate.num === 60000)
}

function dropPerMinute(base: TimeBase): number {
  return base.dropFrame && canDropFrame(base.rate) ? nominalRate(base.rate) / 15 : 0
}

/** Frames in a day of labels: where the label wraps. */
export function framesPerDay(base: TimeBase): Frames {
  return nominalRate(base.rate) * 86400 - dropPerMinute(base) * 9 * 144
}

/**
 * `hh:mm:ss:ff`, with `;` before the frames when labels are dropped; of sound alone, `ff` are samples, in all the
 * digits they need. Wraps at 24 h; negative counts wrap backwards.
 */
export function formatTimecode(frames: Frames, base: TimeBase): string {
  const fps = nominalRate(base.rate)
  const drop = dropPerMinute(base)
  const day = framesPerDay(base)
  let n = ((frames % day) + day) % day
  if (drop > 0) {
    const tenMinutes = fps * 600 - drop * 9
    const minute = fps * 60 - drop
    const tens = Math.floor(n / tenMinutes)
    const rest = n % tenMinutes
    n += drop * 9 * tens
    if (rest >= fps * 60) n += drop * (1 + Math.floor((rest - fps * 60) / minute))
  }
  const two = (v: number) => String(v).padStart(2, '0')
  const ff = String(n % fps).padStart(Math.max(2, String(fps - 1).length), '0')
  const s = Math.floor(n / fps)
  return `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}${drop ? ';' : ':'}${ff}`
}

/** Hours, minutes, seconds and frames of a label that {@link formatTimecode} made. */
export function labelParts(label: string): readonly [number, number, number, number] {
  return label.split(/[:;]/).map(Number) as [number, number, number, number]
}

/** A length as `h:mm:ss:ff`, counted without dropped labels in the minutes it passes; never wraps. */
export function formatLength(frames: Frames, base: TimeBase): string {
  const text = formatTimecode(frames, base)
  return text.replace(/^0(\d)/, '$1')
}

/** A length in words: `12 frames`; of sound alone `7 samples`, and from a tenth of a second on `4.300 s`. */
export function lengthText(n: Frames, rate: Rate): string {
  if (countsSamples(rate) && n * 10 >= nominalRate(rate)) return `${framesToSeconds(n, rate).toFixed(3)} s`
  return plural(n, unitOf(rate))
}

/** The frame count of the label hh:mm:ss:ff, or null when the label does not exist at this base. */
export function timecodeToFrames(hh: number, mm: number, ss: number, ff: number, base: TimeBase): Frames | null {
  const fps = nominalRate(base.rate)
  if (hh > 23 || mm > 59 || ss > 59 || ff >= fps) return null
  const drop = dropPerMinute(base)
  if (drop && ss === 0 && ff < drop && mm % 10 !== 0) return null
  const minutes = hh * 60 + mm
  return (minutes * 60 + ss) * fps + ff - drop * (minutes - Math.floor(minutes / 10))
}

/**
 * Reads a full label; `;` or `.` before the frames is accepted at any base. Of sound alone `hh:mm:ss` and decimals of a
 * second (`00:01:02.5`) are read as well, to the nearest sample. Null when it is none.
 */
export function parseTimecode(text: string, base: TimeBase): Frames | null {
  if (countsSamples(base.rate)) {
    const clock = /^\s*(\d{1,2}):(\d{1,2}):(\d{1,2})(?:[.,](\d{1,9}))?\s*$/.exec(text)
    if (clock) return clockToSamples(Number(clock[1]), Number(clock[2]), Number(clock[3]), clock[4] ?? '', base)
  }
  const m = /^\s*(\d{1,2}):(\d{1,2}):(\d{1,2})[:;.,](\d{1,6})\s*$/.exec(text)
  return m ? timecodeToFrames(Number(m[1]), Number(m[2]), Number(m[3]), Number(m[4]), base) : null
}

/** The sample nearest to a time of day with decimals of a second, given as their digits. */
function clockToSamples(hh: number, mm: number, ss: number, decimals: string, base: TimeBase): Frames | null {
  const whole = timecodeToFrames(hh, mm, ss, 0, base)
  return whole === null
    ? null
    : whole + mulDivRound(Number(decimals || '0'), nominalRate(base.rate), 10 ** decimals.length)
}

/** What is typed where samples are counted: digits from the right are hours, minutes, seconds; `12.5` has decimals. */
function parseTypedClock(text: string, base: TimeBase): Frames | null {
  const m = /^(\d{1,6})(?:[.,](\d{1,9}))?$/.exec(text)
  if (!m) return null
  const d = m[1]!.padStart(6, '0')
  return clockToSamples(Number(d.slice(0, 2)), Number(d.slice(2, 4)), Number(d.slice(4)), m[2] ?? '', base)
}

/**
 * What an operator types into a timecode field: a whole label; digits filled from the right (`1205` is 12 s 5 f, of
 * sound alone 12 min 5 s); `+2s`, `-12`, `+1m`, `+1:10` relative to `now`. Null when it cannot be read.
 */
export function parseTyped(text: string, now: Frames, base: TimeBase): Frames | null {
  const t = text.trim()
  const fps = nominalRate(base.rate)
  const relative = /^([+-])\s*(\d+)\s*([smhf]?)$/i.exec(t)
  if (relative) {
    const unit = { '': 1, f: 1, s: fps, m: fps * 60, h: fps * 3600 }[relative[3]!.toLowerCase()]!
    return now + (relative[1] === '-' ? -1 : 1) * Number(relative[2]) * unit
  }
  const relativeLabel = /^([+-])\s*(\d+):(\d{1,2})$/.exec(t)
  if (relativeLabel)
    return now + (relativeLabel[1] === '-' ? -1 : 1) * (Number(relativeLabel[2]) * fps + Number(relativeLabel[3]))
  if (countsSamples(base.rate)) return parseTypedClock(t, base) ?? parseTimecode(t, base)
  if (/^\d{1,8}$/.test(t)) {
    const d = t.padStart(8, '0')
    return timecodeToFrames(
      Number(d.slice(0, 2)),
      Number(d.slice(2, 4)),
      Number(d.slice(4, 6)),
      Number(d.slice(6)),
      base,
    )
  }
  return parseTimecode(t, base)
}

const inSeconds = { h: 3600, m: 60, s: 1 }

/**
 * A length as people write it: `25`, `25f` frames; `90s`, `2.5 min`, `1h02m03s`; `mm:ss`, `h:mm:ss`, `h:mm:ss:ff`.
 * Seconds are those of labels (30 frames at 30000/1001), unless they have decimals after a colon (`0:10.5`): then they
 * are those of a clock, to the nearest frame. Null when it cannot be read.
 */
export function parseLength(text: string, base: TimeBase): Frames | null {
  const t = text.trim().toLowerCase()
  const fps = nominalRate(base.rate)
  const plain = /^(\d{1,12})\s*(?:f|fr|frames?|samples?)?$/.exec(t)
  if (plain) return Number(plain[1])
  const one = /^(\d{1,6})(?:[.,](\d{1,6}))?\s*(h|m|s)(?:rs?|ours?|ins?|inutes?|ecs?|econds?)?$/.exec(t)
  if (one) {
    const scale = 10 ** (one[2] ?? '').length
    return mulDivRound(Number(`${one[1]}${one[2] ?? ''}`), inSeconds[one[3] as 'h' | 'm' | 's'] * fps, scale)
  }
  const several = /^(?:(\d{1,4})\s*h)?\s*(?:(\d{1,4})\s*m(?:in)?)?\s*(?:(\d{1,4})\s*s)?$/.exec(t)
  if (several && t !== '') {
    const [h, m, s] = [several[1], several[2], several[3]].map((d) => Number(d ?? '0')) as [number, number, number]
    return (h * 3600 + m * 60 + s) * fps
  }
  return parseClock(t, base) ?? parseTimecode(t, base)
}

/**
 * Hours, minutes and seconds without frames: `mm:ss` and `h:mm:ss` as labels, with one, three or more decimals as a
 * clock has them, to the nearest frame. Null when it is none.
 */
export function parseClock(text: string, base: TimeBase): Frames | null {
  const m = /^\s*(?:(\d{1,2}):)?(\d{1,3}):(\d{1,2})(?:[.,](\d|\d{3,9}))?\s*$/.exec(text)
  if (!m) return null
  const [hh, mm, ss] = [Number(m[1] ?? '0'), Number(m[2]), Number(m[3])]
  if (ss > 59 || (m[1] !== undefined && mm > 59)) return null
  if (m[4] === undefined) {
    const label = { hh: hh + Math.floor(mm / 60), mm: mm % 60 }
    return timecodeToFrames(label.hh, label.mm, ss, 0, base) ?? timecodeToFrames(label.hh, label.mm, ss, 2, base)
  }
  const scale = 10 ** m[4].length
  const ticks = ((hh * 60 + mm) * 60 + ss) * scale + Number(m[4])
  return mulDivRound(ticks, base.rate.num, base.rate.den * scale)
}
