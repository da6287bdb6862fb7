import { kernel } from './kernel'

/**
 * The interpolating filter of ITU-R BS.1770-5 Annex 2: the first two of its four phases of twelve taps. The other two
 * are these read backwards.
 */
const phases = [
  [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875,
    -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ],
  [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
    -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ],
] as const

/**
 * Half sums and half differences of taps k and 11 − k. With x the samples, a phase and its mirror give S + D and S − D,
 * where S = Σ half sum · (x[k] + x[11 − k]) and D = Σ half difference · (x[k] − x[11 − k]): the larger of both,
 * unsigned, is |S| + |D|.
 */
const folded = phases.map((p) => ({
  sum: [0, 1, 2, 3, 4, 5].map((k) => (p[k]! + p[11 - k]!) / 2),
  difference: [0, 1, 2, 3, 4, 5].map((k) => (p[k]! - p[11 - k]!) / 2),
}))

/** No interpolated sample exceeds the largest of its twelve neighbours by more than this. */
const bound = 2.03
/** Samples before the first one that the filter looks at. */
export const history = 11

/** The largest of `peak` and of samples [from, to), linear. */
export function samplePeak(x: Float32Array, from: number, to: number, peak: number): number {
  for (let i = from; i < to; i++) {
    const v = Math.abs(x[i]!)
    if (v > peak) peak = v
  }
  return peak
}

const [[a0, a1, a2, a3, a4, a5], [b0, b1, b2, b3, b4, b5]] = [folded[0]!.sum, folded[0]!.difference] as [
  number[],
  number[],
]
const [[c0, c1, c2, c3, c4, c5], [d0, d1, d2, d3, d4, d5]] = [folded[1]!.sum, folded[1]!.difference] as [
  number[],
  number[],
]

/**
 * The largest of `sofar` and of samples [from, to) of `x` by four-fold oversampling (BS.1770-5 Annex 2); the eleven
 * samples before them are looked at too. Linear, 1 is full scale. Stretches that cannot exceed the peak so far are
 * skipped without interpolating.
 */
export function truePeakPlain(x: Float32Array, from: number, to: number, sofar: number): number {
  let peak = samplePeak(x, from, to, sofar)
  for (let block = from; block < to; block += 32) {
    const end = Math.min(to, block + 32)
    if (samplePeak(x, block - history, end, 0) * bound <= peak) continue
    for (let i = block; i < end; i++) {
      const s0 = x[i]! + x[i - 11]!
      const e0 = x[i]! - x[i - 11]!
      const s1 = x[i - 1]! + x[i - 10]!
      const e1 = x[i - 1]! - x[i - 10]!
      const s2 = x[i - 2]! + x[i - 9]!
      const e2 = x[i - 2]! - x[i - 9]!
      const s3 = x[i - 3]! + x[i - 8]!
      const e3 = x[i - 3]! - x[i - 8]!
      const s4 = x[i - 4]! + x[i - 7]!
      const e4 = x[i - 4]! - x[i - 7]!
      const s5 = x[i - 5]! + x[i - 6]!
      const e5 = x[i - 5]! - x[i - 6]!
      const p =
        Math.abs(a0! * s0 + a1! * s1 + a2! * s2 + a3! * s3 + a4! * s4 + a5! * s5) +
        Math.abs(b0! * e0 + b1! * e1 + b2! * e2 + b3! * e3 + b4! * e4 + b5! * e5)
      const q =
        Math.abs(c0! * s0 + c1! * s1 + c2! * s2 + c3! * s3 + c4! * s4 + c5! * s5) +
        Math.abs(d0! * e0 + d1! * e1 + d2! * e2 + d3! * e3 + d4! * e4 + d5! * e5)
      if (p > peak) peak = p
      if (q > peak) peak = q
    }
  }
  return peak
}

/** The taps as the kernel reads them: sums and differences of the first phase, then of the second; and as 32 bits. */
const taps = (() => {
  const all = folded.flatMap((f) => [...f.sum, ...f.difference])
  const bytes = new Uint8Array(all.length * 12)
  new Float64Array(bytes.buffer, 0, all.length).set(all)
  new Float32Array(bytes.buffer, all.length * 8, all.length).set(all)
  return bytes
})()

/** What 32-bit floats can be off by in an interpolated sample, as a part of the largest one around it. */
const rough = 1e-5

/** The same by the kernel where there is one. */
export function truePeakOf(x: Float32Array, from: number, to: number, sofar: number): number {
  const fast = kernel()
  if (!fast) return truePeakPlain(x, from, to, sofar)
  const peak = samplePeak(x, from, to, sofar)
  const largest = samplePeak(x, from - history, to, 0)
  if (largest * bound <= peak) return peak
  const [at, samples] = fast.hold([taps, x.subarray(from - history, to)])
  return fast.run.truePeak(samples! + history * 4, to - from, at!, largest * rough, peak)
}
