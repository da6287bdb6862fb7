import { decibels, type Measure } from './measure'

export interface ChannelFacts {
  /** Sample peak of each channel, dBFS. */
  readonly peaks: readonly number[]
  /** RMS of each channel, dBFS. */
  readonly levels: readonly number[]
  /** Correlation of the first two channels, −1 (out of phase) to 1 (alike); null when there are not two or one is silent. */
  readonly correlation: number | null
}

/** What is said of each channel without weighting: peak, level, and how the first two agree. */
export function channelFacts(channels: number): Measure<readonly Float32Array[], ChannelFacts> {
  const peak = new Float64Array(channels)
  const energy = new Float64Array(channels)
  let cross = 0
  let samples = 0
  return {
    feed(input) {
      const n = input[0]?.length ?? 0
      samples += n
      for (let c = 0; c < channels; c++) {
        const x = input[c]!
        let p = peak[c]!
        let e = 0
        for (let i = 0; i < n; i++) {
          const v = x[i]!
          e += v * v
          if (v > p) p = v
          else if (-v > p) p = -v
        }
        peak[c] = p
        energy[c]! += e
      }
      if (channels >= 2) {
        const [l, r] = [input[0]!, input[1]!]
        for (let i = 0; i < n; i++) cross += l[i]! * r[i]!
      }
    },
    result() {
      const both = channels >= 2 ? Math.sqrt(energy[0]! * energy[1]!) : 0
      return {
        peaks: Array.from(peak, decibels),
        levels: Array.from(energy, e => decibels(Math.sqrt(e / Math.max(1, samples)))),
        correlation: both > samples * 1e-8 ? cross / both : null,
      }
    },
  }
}
