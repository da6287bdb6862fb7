import type { Measure } from '../measure'

/** From so many kbit/s of each channel on it is so much; the last holds for all below. */
const byKilobits =
  (...steps: readonly (readonly [from: number, by: number])[]) =>
  (kilobits: number): number =>
    steps.find(([from]) => kilobits >= from)![1]

/**
 * How far figures of sound were found to move. The worst of tones, sweeps and beats in AAC, at 32, 48, 64, 96 and 128
 * kbit/s a channel: a peak 6.3, 5.7, 5.3, 4.0, 0.1 dB; the programme 0.6, 0.12, 0.02, 0.01, 0.01 LU; its loudest 0.4 s
 * 1.2, 0.6, 0.2, 0.03, 0.01; its range 0.25, 0.1, 0.03, 0.01, 0.01.
 */
export const moves = {
  peak: { coded: byKilobits([128, 1], [80, 5], [0, 7]), resampled: 0.3, rounded: 0.01 },
  programme: { coded: byKilobits([64, 0.1], [48, 0.3], [0, 1]), resampled: 0.01 },
  stretch: { coded: byKilobits([96, 0.2], [64, 0.4], [48, 1], [0, 2]), resampled: 0.02 },
  range: { coded: byKilobits([64, 0.2], [48, 0.3], [0, 0.5]), resampled: 0.02 },
} satisfies Record<string, Measure['moves']>
