import type { Measure } from './measure'

/** The interpolating filter of ITU-R BS.1770-5 Annex 2: four phases of twelve taps. */
const phases = [
  [0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125],
  [-0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375],
  [-0.0189208984375, 0.0330810546875, -0.0582275390625, 0.1015625, -0.2003173828125, 0.77978515625, 0.465087890625, -0.16650390625, 0.089111328125, -0.0517578125, 0.029296875, -0.0291748046875],
  [-0.00830078125, 0.014892578125, -0.026611328125, 0.047607421875, -0.102294921875, 0.97216796875, 0.1373291015625, -0.0594482421875, 0.033203125, -0.0196533203125, 0.010986328125, 0.001708984375],
].map(p => Float64Array.from(p))

/** No interpolated sample exceeds the largest of its twelve neighbours by more than this. */
const bound = 2.03
const history = 11

/** Linear, one value a channel; 1 is full scale. */
export type TruePeak = Measure<readonly Float32Array[], readonly number[]>

/**
 * True peak of each channel by four-fold oversampling (two-fold from 96 kHz, none from 192 kHz), BS.1770-5 Annex 2.
 * Stretches that cannot exceed the peak so far are skipped without interpolating.
 */
export function truePeakMeter(channels: number, sampleRate: number): TruePeak {
  const used = sampleRate >= 192_000 ? [] : sampleRate >= 96_000 ? [phases[0]!, phases[2]!] : phases
  const peaks = new Float64Array(channels)
  const tails = Array.from({ length: channels }, () => new Float32Array(history))
  let work = new Float32Array(0)

  function run(c: number, n: number) {
    let peak = peaks[c]!
    for (let block = history; block < n; block += 64) {
      const end = Math.min(n, block + 64)
      let largest = 0
      for (let i = block - history; i < end; i++) {
        const a = Math.abs(work[i]!)
        if (a > largest) largest = a
      }
      if (largest > peak && used.length < 4) peak = largest
      if (largest * bound <= peak) continue
      for (let i = block; i < end; i++) {
        const a = Math.abs(work[i]!)
        if (a > peak) peak = a
      }
      for (const p of used) {
        const [c0, c1, c2, c3, c4, c5, c6, c7, c8, c9, ca, cb] = p as unknown as number[]
        for (let i = block; i < end; i++) {
          const v = c0! * work[i]! + c1! * work[i - 1]! + c2! * work[i - 2]! + c3! * work[i - 3]! + c4! * work[i - 4]! + c5! * work[i - 5]!
            + c6! * work[i - 6]! + c7! * work[i - 7]! + c8! * work[i - 8]! + c9! * work[i - 9]! + ca! * work[i - 10]! + cb! * work[i - 11]!
          const a = v < 0 ? -v : v
          if (a > peak) peak = a
        }
      }
    }
    peaks[c] = peak
  }

  return {
    feed(input) {
      const n = input[0]?.length ?? 0
      if (n === 0) return
      if (work.length < n + history) work = new Float32Array(n + history)
      for (let c = 0; c < channels; c++) {
        work.set(tails[c]!, 0)
        work.set(input[c]!, history)
        run(c, n + history)
        tails[c]!.set(work.subarray(n, n + history))
      }
    },
    result: () => Array.from(peaks),
  }
}
