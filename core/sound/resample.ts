import type { Samples } from '../time/rate'

/** Sound at one sample rate, read anywhere: the part of a source that resampling asks for. */
interface Heard {
  readonly sampleRate: number
  /** Of every channel, or of those wanted alone. */
  read(from: Samples, count: Samples, wanted?: readonly number[]): Promise<Float32Array[]>
}

/** How far the stop band lies below the pass band, dB: under the noise of 16 bits, near that of 24. */
const stopBand = 125
/** Of the band that both rates can hold, this much passes untouched. */
const passes = 0.91

/** A windowed sinc in phases: output sample n is the sum of `taps` input samples by the weights of its phase. */
interface Phases {
  /** Rates in lowest terms: for `up` output samples, `down` input samples. */
  readonly up: number
  readonly down: number
  /** Input samples of one sum, half of them before its place. */
  readonly taps: number
  readonly weights: readonly Float64Array[]
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))

/** Modified Bessel function of the first kind, order nought (its power series). */
function bessel(x: number): number {
  let sum = 1
  for (let term = 1, k = 1; term > 1e-18 * sum; k++) {
    term *= (x / (2 * k)) ** 2
    sum += term
  }
  return sum
}

const kept = new Map<string, Phases>()

/** Kaiser's window over a sinc (Kaiser and Schafer, 1980), as long as its transition band asks for. */
function phasesOf(from: number, to: number): Phases {
  const key = `${from}/${to}`
  const known = kept.get(key)
  if (known) return known
  const common = gcd(from, to)
  const [up, down] = [to / common, from / common]
  const band = Math.min(from, to) / 2
  const transition = (1 - passes) * band
  const beta = 0.1102 * (stopBand - 8.7)
  const half = Math.ceil((stopBand - 7.95) / (14.36 * (transition / from)) / 2)
  // the middle of the transition band, in cycles an input sample
  const cutoff = (band - transition / 2) / from
  const weights = Array.from({ length: up }, (_, phase) => {
    const offset = ((phase * down) % up) / up
    const own = Float64Array.from({ length: 2 * half }, (_x, k) => {
      const x = k - half + 1 - offset
      const angle = 2 * Math.PI * cutoff * x
      const window = Math.abs(x) >= half ? 0 : bessel(beta * Math.sqrt(1 - (x / half) ** 2)) / bessel(beta)
      return window * (x === 0 ? 1 : Math.sin(angle) / angle)
    })
    // every phase lets a steady level through as it is
    const sum = own.reduce((a, b) => a + b, 0)
    return own.map((w) => w / sum)
  })
  const made = { up, down, taps: 2 * half, weights }
  if (kept.size > 8) kept.clear()
  kept.set(key, made)
  return made
}

/** One channel's sums for output samples [from, from + count), out of input that begins at sample `first`. */
function sums({ up, down, taps, weights }: Phases, input: Float32Array, first: Samples, from: Samples, count: Samples) {
  const out = new Float32Array(count)
  for (let i = 0; i < count; i++) {
    const n = from + i
    const own = weights[n % up]!
    const at = Math.floor((n * down) / up) - taps / 2 + 1 - first
    let sum = 0
    for (let k = 0; k < taps; k++) sum += input[at + k]! * own[k]!
    out[i] = sum
  }
  return out
}

/**
 * Sound brought to another sample rate by a polyphase windowed sinc of linear phase: sample n of what comes out lies at
 * the time of `n × from / to` of what goes in, at any ratio; images and aliases lie 120 dB below. Read anywhere, in
 * parts of any length, it is the same sound.
 */
export function resampled<T extends Heard>(source: T, sampleRate: number): Heard {
  if (source.sampleRate === sampleRate) return source
  const phases = phasesOf(source.sampleRate, sampleRate)
  const { up, down, taps } = phases
  return {
    sampleRate,
    async read(from, count, wanted) {
      const first = Math.floor((from * down) / up) - taps / 2 + 1
      const last = Math.floor(((from + Math.max(1, count) - 1) * down) / up) + taps / 2
      const input = await source.read(first, last - first + 1, wanted)
      return input.map((channel, c) =>
        wanted && !wanted.includes(c) ? new Float32Array(count) : sums(phases, channel, first, from, count),
      )
    },
  }
}
