import { countsSamples, traceRate, type Frames, type Rate, type Samples } from './rate'

/** `a * b / c` rounded to the nearest integer, half up, exact for any safe integers. */
export function mulDivRound(a: number, b: number, c: number): number {
  const product = a * b
  if (Number.isSafeInteger(product) && Number.isSafeInteger(2 * product + c))
    return Math.floor((2 * product + c) / (2 * c))
  const n = 2n * BigInt(a) * BigInt(b) + BigInt(c)
  const d = 2n * BigInt(c)
  return Number(n >= 0n || n % d === 0n ? n / d : n / d - 1n)
}

/** `a * b / c` rounded down, exact for any safe integers. */
export function mulDivFloor(a: number, b: number, c: number): number {
  const product = a * b
  if (Number.isSafeInteger(product)) return Math.floor(product / c)
  const n = BigInt(a) * BigInt(b)
  const d = BigInt(c)
  return Number(n >= 0n || n % d === 0n ? n / d : n / d - 1n)
}

/**
 * The sample at which a frame begins: nearest to the exact position, so that 48 kHz at 30000/1001
 * repeats 1602 1601 1602 1601 1602 (SMPTE ST 382, five-frame sequence).
 */
export function sampleAtFrame(frame: Frames, rate: Rate, sampleRate: number): Samples {
  return mulDivRound(frame, sampleRate * rate.den, rate.num)
}

/** The frame in which a sample lies. */
export function frameAtSample(sample: Samples, rate: Rate, sampleRate: number): Frames {
  let frame = mulDivFloor(sample, rate.num, sampleRate * rate.den)
  while (sampleAtFrame(frame + 1, rate, sampleRate) <= sample) frame++
  while (sampleAtFrame(frame, rate, sampleRate) > sample) frame--
  return frame
}

/** How many frames of work a length is, see {@link traceRate}: those of the pictures, or hundredths of a second. */
export function workFrames(length: Frames, rate: Rate): Frames {
  if (!countsSamples(rate)) return length
  const work = traceRate(rate)
  return Math.max(1, mulDivRound(length, work.num * rate.den, work.den * rate.num))
}

/** The number of the trace that a frame is in, see {@link traceRate}: its own, or that of its hundredth of a second. */
export function traceAt(frame: Frames, rate: Rate): number {
  const { num, den } = traceRate(rate)
  return mulDivFloor(frame, num * rate.den, den * rate.num)
}
