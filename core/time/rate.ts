/** A count of frames. Always an integer; none of samples fits where one of frames is asked for. */
export type Frames = number & { readonly unit?: 'frames' }
/** A count of sound samples (per channel). Always an integer. */
export type Samples = number & { readonly unit?: 'samples' }
/**
 * A length of time; never what is counted by, only what is shown, forecast or told to interfaces that know no frames.
 */
export type Seconds = number & { readonly unit?: 'seconds' }

/** Frames a second as an exact fraction (SMPTE ST 12-1). */
export interface Rate {
  readonly num: number
  readonly den: number
}

/** The rates of ST 12-1 and their high-rate relatives, in the order they are offered. */
export const rates: readonly Rate[] = [
  [24000, 1001],
  [24, 1],
  [25, 1],
  [30000, 1001],
  [30, 1],
  [48, 1],
  [50, 1],
  [60000, 1001],
  [60, 1],
  [100, 1],
  [120000, 1001],
  [120, 1],
].map(([num, den]) => ({ num: num!, den: den! }))

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b)
}

/** A rate in lowest terms. */
export function makeRate(num: number, den = 1): Rate {
  const g = gcd(num, den) || 1
  return { num: num / g, den: den / g }
}

/** A rate at which so many frames of another are one. */
export const dividedRate = (r: Rate, by: number): Rate => (by === 1 ? r : makeRate(r.num, r.den * by))

/**
 * Reads `25`, `25/1`, `30000/1001`, and the display forms `23.976`, `23.98`, `29.97`, `59.94`; null when it is no rate.
 */
export function parseRate(text: string): Rate | null {
  const fraction = /^\s*(\d+)\s*\/\s*(\d+)\s*$/.exec(text)
  if (fraction)
    return Number(fraction[1]) > 0 && Number(fraction[2]) > 0
      ? makeRate(Number(fraction[1]), Number(fraction[2]))
      : null
  const value = Number(text)
  if (!(value > 0) || value > 1000) return null
  if (Number.isInteger(value)) return makeRate(value)
  return nearestRate(value)
}

/** The standard rate within 0.02 % of a measured one, or null. Used where a file only gives a duration. */
export function nearestRate(value: number): Rate | null {
  let best: Rate | null = null
  for (const r of rates) {
    const off = Math.abs(r.num / r.den - value) / value
    if (off < 2e-4 && (!best || off < Math.abs(best.num / best.den - value) / value)) best = r
  }
  return best
}

/** How far a rate is from the standard one that it stands for, in parts of it: 2997/100 is 30000/1001 written short. */
const short = 2e-6

/**
 * The rate of so many frames in a length, of which `second` make a second, where that is not the standard one they are
 * counted by: times are rounded, so that a length may be off by one and a half steps. Null where it is that one.
 */
export function otherRate(
  standard: Rate,
  frames: Frames,
  { length, second, step }: { readonly length: number; readonly second: number; readonly step: number },
): Rate | null {
  if (!(frames > 0 && length > 0)) return null
  const off = Math.abs((standard.num * length) / (standard.den * frames * second) - 1)
  return off <= Math.max(short, (1.5 * step) / length) ? null : makeRate(frames * second, length)
}

/** `25/1`, `30000/1001`: the exact form for files and interfaces. */
export function rateText(r: Rate): string {
  return `${r.num}/${r.den}`
}

/** `25`, `29.97`, `23.976`: for display only. */
export function rateLabel(r: Rate): string {
  if (r.den === 1) return String(r.num)
  const v = r.num / r.den
  return v < 24 ? v.toFixed(3) : v.toFixed(2)
}

export function sameRate(a: Rate, b: Rate): boolean {
  return a.num * b.den === b.num * a.den
}

/** The whole number that timecode counts to: 30 for 30000/1001 (ST 12-1). */
export function nominalRate(r: Rate): number {
  return Math.round(r.num / r.den)
}

/** Seconds of a number of frames; for display and for interfaces that only know seconds. */
export function framesToSeconds(frames: Frames, r: Rate): Seconds {
  return (frames * r.den) / r.num
}

/** Whether a rate is that of sound alone: its timelines are counted in samples, and the rate is the sample rate. */
export function countsSamples(r: Rate): boolean {
  return nominalRate(r) > 1000
}

/** What timelines of a rate are counted in. */
export function unitOf(r: Rate): 'frame' | 'sample' {
  return countsSamples(r) ? 'sample' : 'frame'
}

/**
 * The rate at which work and traces of sound are counted: that of the pictures; for sound alone, hundredths of a
 * second, since samples are too many.
 */
export function traceRate(r: Rate): Rate {
  return countsSamples(r) ? makeRate(100) : r
}
