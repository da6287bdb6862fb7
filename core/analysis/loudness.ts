import { makeRate, nominalRate, type Rate } from '../time/rate'

/**
 * LUFS; LU for the range. −Infinity for silence, null where the programme is too short to say, and for the range of
 * what never comes over −70 LUFS for three seconds.
 */
export interface Loudness {
  readonly integrated: number | null
  readonly range: number | null
  readonly momentaryMax: number | null
  readonly shortTermMax: number | null
}

const toLoudness = (energy: number) => (energy > 0 ? -0.691 + 10 * Math.log10(energy) : -Infinity)
const toEnergy = (loudness: number) => 10 ** ((loudness + 0.691) / 10)

/**
 * Slots a second for sound that goes with pictures of a rate: every frame and every tenth of a second is a whole number
 * of them, and none is longer than a hundredth, so that the energy of a region is that of its frames. At rates over
 * 1001 a tenth is 0.1001 s.
 */
export function slotsOf(rate: Rate): Rate {
  const n = Math.max(1, nominalRate(rate))
  let k = Math.ceil(100 / n)
  while ((n * k) % 10 !== 0) k++
  return makeRate(rate.num * k, rate.den)
}

/** Slots of a tenth of a second: the step of the blocks of BS.1770-5. */
export const slotsOfTenth = (slots: Rate): number => Math.max(1, Math.round(slots.num / slots.den / 10))

/**
 * Loudness by ITU-R BS.1770-5, with the time scales of EBU Tech 3341 and the range of Tech 3342, of the energies of
 * slots one after the other: sums of squares of K-weighted samples, gains applied. Slots are of a hundredth of a second
 * or less, so that momentary and short-term windows slide finely enough for short tones at any position (Tech 3341
 * cases 10 and 13).
 */
export function loudnessOf(energies: Float64Array, slots: Rate, sampleRate: number): Loudness {
  const hop = slotsOfTenth(slots)
  const prefix = new Float64Array(energies.length + 1)
  for (let i = 0; i < energies.length; i++) prefix[i + 1] = prefix[i]! + energies[i]!
  /** Mean energy of windows of `length` slots, ending after every `step` slots. */
  function windows(length: number, step: number): Float64Array {
    const out = new Float64Array(Math.max(0, Math.floor((energies.length - length) / step) + 1))
    const scale = slots.num / slots.den / (length * sampleRate)
    for (let k = 0; k < out.length; k++) out[k] = Math.max(0, prefix[k * step + length]! - prefix[k * step]!) * scale
    return out
  }
  const blocks = windows(4 * hop, hop)
  const absolute = gatedMean(blocks, toEnergy(-70))
  const gated = absolute.n ? gatedMean(blocks, Math.max(toEnergy(-70), absolute.mean / 10)).mean : 0
  const short = windows(30 * hop, hop)
  let range: number | null = null
  if (short.length > 0) {
    const mean = gatedMean(short, toEnergy(-70)).mean
    const kept = short.filter((e) => e > toEnergy(-70) && e > mean / 100).sort()
    const at = (p: number) => toLoudness(kept[Math.round((kept.length - 1) * p)]!)
    range = kept.length ? at(0.95) - at(0.1) : null
  }
  const max = (w: Float64Array) => toLoudness(w.reduce((m, v) => Math.max(m, v), 0))
  return {
    integrated: blocks.length ? toLoudness(gated) : null,
    range,
    momentaryMax: blocks.length ? max(windows(4 * hop, 1)) : null,
    shortTermMax: short.length ? max(windows(30 * hop, 1)) : null,
  }
}

function gatedMean(blocks: Float64Array, above: number): { mean: number; n: number } {
  let total = 0
  let n = 0
  for (const b of blocks) {
    if (b > above) {
      total += b
      n++
    }
  }
  return { mean: n ? total / n : 0, n }
}

/**
 * Loudness of the stretch (`tenths` tenths of a second, or of what there is so far) that ends after each tenth of a
 * second, in LUFS: 4 gives the momentary one, 30 the short-term one.
 */
export function runningLoudness(energies: Float64Array, slots: Rate, sampleRate: number, tenths: 4 | 30): Float32Array {
  const length = tenths * slotsOfTenth(slots)
  const out = new Float32Array(Math.floor((energies.length * 10 * slots.den) / slots.num))
  const prefix = new Float64Array(energies.length + 1)
  for (let i = 0; i < energies.length; i++) prefix[i + 1] = prefix[i]! + energies[i]!
  for (let k = 0; k < out.length; k++) {
    const end = Math.min(energies.length, Math.round(((k + 1) * slots.num) / (10 * slots.den)))
    const begin = Math.max(0, end - length)
    // differences of long sums leave dust where there is silence
    const energy = prefix[end]! - prefix[begin]!
    out[k] = toLoudness(
      energy > prefix[end]! * 1e-13 ? (energy * slots.num) / (slots.den * (end - begin) * sampleRate) : 0,
    )
  }
  return out
}

/** A list of numbers that grows without being copied at every turn. */
export function growing(): { push(v: number): void; all(): Float64Array } {
  let list = new Float64Array(1 << 12)
  let count = 0
  return {
    push(v) {
      if (count === list.length) {
        const grown = new Float64Array(count * 2)
        grown.set(list)
        list = grown
      }
      list[count++] = v
    },
    all: () => list.subarray(0, count),
  }
}
