import { kWeighting } from './kweighting'
import type { Measure } from './measure'

/** LUFS; LU for the range. −Infinity for silence, null where the programme is too short to say. */
export interface Loudness {
  readonly integrated: number
  readonly range: number | null
  readonly momentaryMax: number
  readonly shortTermMax: number | null
}

export interface LoudnessMeter extends Measure<readonly Float32Array[], Loudness> {
  /** Short-term loudness of the 3 s (less at the start) that end after each tenth of a second, in LUFS. */
  ribbon(): Float32Array
  /** Momentary loudness: the same of 400 ms. */
  momentary(): Float32Array
}

/**
 * Channel gains of BS.1770-5 table 3: surrounds 1.41, LFE left out. Layouts as EBU R 123 orders them: of 4, 8 or 16 channels
 * the first two are the programme, and only they count.
 */
export function channelGains(channels: number, layout: string | null = null): number[] {
  if (layout === null && [4, 8, 16].includes(channels)) return Array.from({ length: channels }, (_, i) => (i < 2 ? 1 : 0))
  const names = layout?.split(' ') ?? (channels === 6 ? ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'] : channels === 5 ? ['L', 'R', 'C', 'Ls', 'Rs'] : [])
  return Array.from({ length: channels }, (_, i) => names[i] === 'LFE' ? 0 : names[i] === 'Ls' || names[i] === 'Rs' ? 1.41 : 1)
}

const toLoudness = (energy: number) => (energy > 0 ? -0.691 + 10 * Math.log10(energy) : -Infinity)
const toEnergy = (loudness: number) => 10 ** ((loudness + 0.691) / 10)

/**
 * Loudness by ITU-R BS.1770-5, with the time scales of EBU Tech 3341 and the range of Tech 3342.
 * Energy is kept for each hundredth of a second, so that momentary and short-term windows slide finely enough
 * for short tones at any position (Tech 3341 cases 10 and 13).
 */
export function loudnessMeter(sampleRate: number, gains: readonly number[]): LoudnessMeter {
  const [s, h] = kWeighting(sampleRate)
  const states = gains.map(() => new Float64Array(4))
  let slots = new Float64Array(1 << 12)
  let count = 0
  let sum = 0
  let position = 0
  let slotEnd = Math.floor(sampleRate / 100)

  function closeSlot() {
    if (count === slots.length) {
      const grown = new Float64Array(count * 2)
      grown.set(slots)
      slots = grown
    }
    slots[count++] = sum
    sum = 0
    slotEnd = Math.floor(((count + 1) * sampleRate) / 100)
  }

  function feed(channels: readonly Float32Array[]) {
    const n = channels[0]?.length ?? 0
    for (let at = 0; at < n;) {
      const end = Math.min(n, at + slotEnd - position)
      for (let c = 0; c < gains.length; c++) {
        const gain = gains[c]!
        if (gain === 0) continue
        const x = channels[c]!
        const z = states[c]!
        let [z1, z2, z3, z4] = [z[0]!, z[1]!, z[2]!, z[3]!]
        let energy = 0
        for (let i = at; i < end; i++) {
          const v = x[i]!
          const u = s.b0 * v + z1
          z1 = s.b1 * v - s.a1 * u + z2
          z2 = s.b2 * v - s.a2 * u
          const y = u + z3
          z3 = -2 * u - h.a1 * y + z4
          z4 = u - h.a2 * y
          energy += y * y
        }
        // numbers this small would otherwise linger as denormals and slow silence down
        z[0] = Math.abs(z1) < 1e-30 ? 0 : z1
        z[1] = Math.abs(z2) < 1e-30 ? 0 : z2
        z[2] = Math.abs(z3) < 1e-30 ? 0 : z3
        z[3] = Math.abs(z4) < 1e-30 ? 0 : z4
        sum += gain * energy
      }
      position += end - at
      at = end
      if (position >= slotEnd) closeSlot()
    }
  }

  /** Mean energy of windows of `length` slots, ending after every `hop` slots. */
  function windows(length: number, hop: number): Float64Array {
    const out = new Float64Array(Math.max(0, Math.floor((count - length) / hop) + 1))
    const prefix = new Float64Array(count + 1)
    for (let i = 0; i < count; i++) prefix[i + 1] = prefix[i]! + slots[i]!
    const scale = 100 / (length * sampleRate)
    for (let k = 0; k < out.length; k++) out[k] = Math.max(0, prefix[k * hop + length]! - prefix[k * hop]!) * scale
    return out
  }

  /** Loudness of the `length` slots up to each tenth of a second, or of what there is so far. */
  function running(length: number): Float32Array {
    const out = new Float32Array(Math.floor(count / 10))
    let energy = 0
    for (let i = 0; i < out.length * 10; i++) {
      energy += slots[i]!
      if (i >= length) energy -= slots[i - length]!
      if (i % 10 === 9) out[Math.floor(i / 10)] = toLoudness(Math.max(0, energy) * (100 / (Math.min(length, i + 1) * sampleRate)))
    }
    return out
  }

  function gatedMean(blocks: Float64Array, above: number): { mean: number, n: number } {
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

  return {
    feed,
    result() {
      const blocks = windows(40, 10)
      const absolute = gatedMean(blocks, toEnergy(-70))
      const integrated = absolute.n ? toLoudness(gatedMean(blocks, Math.max(toEnergy(-70), absolute.mean / 10)).mean) : -Infinity
      const short = windows(300, 10)
      let range: number | null = null
      if (short.length > 0) {
        const mean = gatedMean(short, toEnergy(-70)).mean
        const kept = [...short].filter(e => e > toEnergy(-70) && e > mean / 100).map(toLoudness).sort((a, b) => a - b)
        const at = (p: number) => kept[Math.round((kept.length - 1) * p)]!
        range = kept.length ? at(0.95) - at(0.1) : 0
      }
      const max = (w: Float64Array) => toLoudness(w.reduce((m, v) => Math.max(m, v), 0))
      return { integrated, range, momentaryMax: max(windows(Math.min(40, Math.max(1, count)), 1)), shortTermMax: short.length ? max(windows(300, 1)) : null }
    },
    ribbon: () => running(300),
    momentary: () => running(40),
  }
}
