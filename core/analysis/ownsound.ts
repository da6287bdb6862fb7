import type { Samples, Seconds } from '../time/rate'

// Whether the sound of a file is what it was to be, and in its place: sample by sample where nothing may change one,
// else by how alike the two are. What was coded with loss is no longer the same, but goes up and down with it.

/** How sound compares with what it is to be. Channels are counted from 0. */
export type OwnSound =
  /** Every sample of it, or as coded every byte. */
  | { readonly is: 'own'; readonly by: 'samples' | 'bytes' }
  /** All that can be heard of it: `likeness` is the least of any stretch, 0.5 … 1. */
  | { readonly is: 'own'; readonly by: 'likeness'; readonly likeness: number }
  /** The same, but later; earlier where it is below nought. */
  | { readonly is: 'shifted'; readonly late: Seconds }
  /** The same, but louder; softer where it is below nought. */
  | { readonly is: 'level'; readonly channel: number; readonly decibels: number }
  | {
      readonly is: 'other'
      readonly channels: readonly number[]
      readonly where: readonly { readonly in: Seconds; readonly out: Seconds }[]
      /** That of another channel, in which of them; turned over: its polarity is the other one. */
      readonly as?: { readonly channel: number; readonly holds: number } | 'turned over'
      /** The least of any stretch, of what was coded. */
      readonly likeness?: number
    }

export interface OwnSoundShape {
  readonly channels: number
  readonly sampleRate: number
  /** Of the file. */
  readonly samples: Samples
  /** Bits of a sample, where it may be off by the rounding to these and by nothing else; null where it is coded. */
  readonly exact: number | null
}

/** Holds sound against what it is to be. */
export interface OwnSoundMeter {
  /** Sound of a file from a sample on, and what it is to be; stretches come in order, some may be left out. */
  feed(at: Samples, there: readonly Float32Array[], own: readonly Float32Array[]): void
  result(): OwnSound
}

/** Mean square below which neither is told from silence: −66 dBFS. */
const faint = 10 ** (-66 / 10)
/** That of what lies high alone, which coders leave out when it is soft: −40 dBFS. */
const faintHigh = 10 ** (-40 / 10)
/** The correlation that sound has with what it was coded from, at the least; by chance it is near nought. */
const alike = 0.5
/** Decibels that coding may move the level of a channel by. */
const mostLevel = 1.5
/** Samples a second that shifts are looked for with, and how far. */
const lowRate = 6000
const reach: Seconds = 0.12
/** Stretches in which shifts are looked for, spread over the file. */
const places = 12

/** Sums of products over a tenth of a second: of the whole band, and of what lies below 3 kHz. */
const sums = 6
const [OWN, THERE, BOTH, LOW_OWN, LOW_THERE, LOW_BOTH] = [0, 1, 2, 3, 4, 5] as const

type Sound = readonly Float32Array[]

/** A second of sound in few samples: as it is to be, and as it is there. */
interface Snippet {
  readonly energy: number
  readonly own: Sound
  readonly there: Sound
}

/** What one way to compare finds, channel by channel and tenth of a second by tenth of a second. */
interface Comparison {
  /** Whether anything of it is another, which shifts are to be looked for in. */
  feed(at: Samples, there: Sound, own: Sound): boolean
  isOther(channel: number, window: number): boolean
  /** How alike the two are where they are least; absent where every sample counts. */
  least?(): number
  /** Of sound of which nothing is another. */
  result(): OwnSound
}

export function ownSoundMeter(shape: OwnSoundShape): OwnSoundMeter {
  const { channels, sampleRate, samples, exact } = shape
  const size = Math.max(1, Math.round(sampleRate / 10))
  const windows = Math.ceil(samples / size)
  const every = Math.max(1, Math.round(sampleRate / lowRate))
  const compared = exact === null ? byLikeness(channels, windows, size, every) : exactly(channels, windows, size, exact)
  const snippets = new Map<number, Snippet>()
  return {
    feed(at, there, own) {
      if (!compared.feed(at, there, own)) return
      // the loudest second of each part of the file
      const part = Math.floor((at * places) / Math.max(1, samples))
      const energy = own.reduce((sum, c) => sum + squares(c), 0)
      if (energy <= faint * (own[0]?.length ?? 0) || energy <= (snippets.get(part)?.energy ?? 0)) return
      const low = (list: Sound) => list.map((c) => lowered(c, every))
      snippets.set(part, { energy, own: low(own), there: low(there) })
    },
    result() {
      const kept = [...snippets.values()]
      const late = shiftOf(kept, sampleRate / every)
      if (late !== null) return { is: 'shifted', late }
      const wrong = Array.from({ length: channels }, (_, c) =>
        Array.from({ length: windows }, (_w, w) => compared.isOther(c, w)),
      )
      const all = wrong.flatMap((list, c) => (list.includes(true) ? [c] : []))
      if (all.length === 0) return compared.result()
      const seconds = (w: number) => Math.min(samples, w * size) / sampleRate
      const where = stretches(wrong, windows).map((r) => ({ in: seconds(r.in), out: seconds(r.out) }))
      const as = mistaken(kept, all)
      const likeness = compared.least?.()
      return {
        is: 'other',
        channels: all,
        where,
        ...(as ? { as } : {}),
        ...(likeness === undefined ? {} : { likeness }),
      }
    },
  }
}

/** Sample by sample, but for rounding to so many bits. */
function exactly(channels: number, windows: number, size: Samples, bits: number): Comparison {
  const off = Array.from({ length: channels }, () => new Uint8Array(windows))
  const step = 2 ** (1 - bits)
  // half a step of rounding, and what numbers of 24 bits themselves are off
  const most = step / 2 + 2 ** -24
  return {
    feed(at, there, own) {
      let differs = false
      for (const [c, a] of own.entries()) {
        const b = there[c]!
        for (let i = 0; i < a.length; i++) {
          // what is beyond full scale is held there
          const v = a[i]! > 1 - step ? 1 - step : a[i]! < -1 ? -1 : a[i]!
          if (Math.abs(v - b[i]!) <= most) continue
          differs = true
          off[c]![Math.floor((at + i) / size)] = 1
        }
      }
      return differs
    },
    isOther: (c, w) => off[c]![w] === 1,
    result: () => ({ is: 'own', by: 'samples' }),
  }
}

/** By how alike the two are; `every` samples are one of the lower part of the band. */
function byLikeness(channels: number, windows: number, size: Samples, every: number): Comparison {
  const found = Array.from({ length: channels }, () => new Float64Array(sums * windows))
  const likeness = (c: number, w: number) => likenessAt(found[c]!, w, size, size / every) ?? 1
  const least = () => {
    let out = 1
    for (let c = 0; c < channels; c++) for (let w = 0; w < windows; w++) out = Math.min(out, likeness(c, w))
    return out
  }
  return {
    feed(at, there, own) {
      for (const [c, a] of own.entries()) {
        for (let from = 0; from < a.length;) {
          const w = Math.floor((at + from) / size)
          const to = Math.min(a.length, (w + 1) * size - at)
          const into = found[c]!.subarray(w * sums, (w + 1) * sums)
          const [x, y] = [a.subarray(from, to), there[c]!.subarray(from, to)]
          add(into, OWN, x, y)
          add(into, LOW_OWN, lowered(x, every), lowered(y, every))
          from = to
        }
      }
      return true
    },
    isOther: (c, w) => likeness(c, w) < alike,
    least,
    result() {
      const levels = found.map((f) => levelOf(f, size / every))
      const channel = levels.findIndex((d) => Math.abs(d) > mostLevel)
      if (channel >= 0) return { is: 'level', channel, decibels: levels[channel]! }
      return { is: 'own', by: 'likeness', likeness: least() }
    },
  }
}

/** Means of so many samples each: sound in fewer of them. */
function lowered(x: Float32Array, every: number): Float32Array {
  const out = new Float32Array(Math.floor(x.length / every))
  for (let i = 0, at = 0; i < out.length; i++) {
    let sum = 0
    for (let k = 0; k < every; k++) sum += x[at++]!
    out[i] = sum / every
  }
  return out
}

function squares(x: Float32Array): number {
  let sum = 0
  for (let i = 0; i < x.length; i++) sum += x[i]! * x[i]!
  return sum
}

/** Adds squares and products of two stretches to three sums from a place on. */
function add(into: Float64Array, at: number, own: Float32Array, there: Float32Array): void {
  let [a, b, both] = [0, 0, 0]
  for (let i = 0; i < own.length; i++) {
    const [x, y] = [own[i]!, there[i]!]
    a += x * x
    b += y * y
    both += x * y
  }
  into[at]! += a
  into[at + 1]! += b
  into[at + 2]! += both
}

/** A sum over a tenth of a second and those on both sides: what is coded may spread over a part of one. */
function around(found: Float64Array, w: number, which: number): number {
  let sum = 0
  for (let i = Math.max(0, w - 1); i <= w + 1 && i * sums < found.length; i++) sum += found[i * sums + which]!
  return sum
}

const correlation = (both: number, a: number, b: number) => (a > 0 && b > 0 ? both / Math.sqrt(a * b) : 0)

/**
 * How alike sound is around a tenth of a second, in all of its band or in the lower part; null where there is none in
 * that tenth itself, of either. `low` is how many samples the lower part has in it.
 */
function likenessAt(found: Float64Array, w: number, size: Samples, low: number): number | null {
  const most = (a: number, b: number) => Math.max(found[w * sums + a]!, found[w * sums + b]!)
  const least = most(LOW_OWN, LOW_THERE) > faint * low ? faint : faintHigh
  if (most(OWN, THERE) <= least * size) return null
  return Math.max(
    correlation(around(found, w, BOTH), around(found, w, OWN), around(found, w, THERE)),
    correlation(around(found, w, LOW_BOTH), around(found, w, LOW_OWN), around(found, w, LOW_THERE)),
  )
}

/** How much louder a channel is than it is to be, by what of it lies below 3 kHz, in decibels. */
function levelOf(found: Float64Array, size: number): number {
  let [own, there] = [0, 0]
  for (let at = 0; at < found.length; at += sums) {
    own += found[at + LOW_OWN]!
    there += found[at + LOW_THERE]!
  }
  const told = own > (faint * size * found.length) / sums
  return told ? 10 * Math.log10(there / own) : 0
}

/** Stretches of windows in which any channel is another one. */
function stretches(wrong: readonly (readonly boolean[])[], windows: number): { in: number; out: number }[] {
  const out: { in: number; out: number }[] = []
  for (let w = 0; w < windows; w++) {
    if (!wrong.some((list) => list[w])) continue
    const last = out.at(-1)
    if (last?.out === w) last.out = w + 1
    else out.push({ in: w, out: w + 1 })
  }
  return out
}

/** By how much sound is later than it is to be; null where it is not, or is no longer the same. */
function shiftOf(kept: readonly Snippet[], rate: number): Seconds | null {
  const most = Math.round(reach * rate)
  const at = (lag: number) => {
    let [own, there, both] = [0, 0, 0]
    for (const s of kept)
      s.own.forEach((x, c) => {
        const y = s.there[c]!
        for (let i = most; i < x.length - most; i++) {
          const v = y[i + lag]!
          own += x[i]! * x[i]!
          there += v * v
          both += x[i]! * v
        }
      })
    return correlation(both, own, there)
  }
  const here = at(0)
  if (here > 0.98) return null
  let best = { lag: 0, like: here }
  // from the nearest on: what repeats itself is as like there as further off
  for (let n = 1; n <= 2 * most; n++) {
    const lag = n & 1 ? (n + 1) >> 1 : -(n >> 1)
    const like = at(lag)
    if (like > best.like + 0.005) best = { lag, like }
  }
  // beside its place sound is a little like itself: what is a part of a millisecond off is not told
  const shifted = Math.abs(best.lag) > 1 && best.like > alike && 1 - best.like < (1 - here) / 2
  return shifted ? best.lag / rate : null
}

/** What a channel that is another one may be: that of another, or itself turned over. */
function mistaken(
  kept: readonly Snippet[],
  wrong: readonly number[],
): { channel: number; holds: number } | 'turned over' | null {
  const like = (channel: number, own: number) => {
    let [a, b, both] = [0, 0, 0]
    for (const s of kept) {
      const [x, y] = [s.own[own]!, s.there[channel]!]
      for (let i = 0; i < x.length; i++) {
        a += x[i]! * x[i]!
        b += y[i]! * y[i]!
        both += x[i]! * y[i]!
      }
    }
    return correlation(both, a, b)
  }
  for (const channel of wrong) {
    const holds = (kept[0]?.own ?? []).findIndex((_, c) => c !== channel && like(channel, c) > 0.9)
    if (holds >= 0) return { channel, holds }
    if (like(channel, channel) < -0.9) return 'turned over'
  }
  return null
}
