/** A meter is made, fed, and can be read at any time. All meters of one pass share one decode. */
export interface Meter<Input, Result> {
  feed(input: Input): void
  result(): Result
}

export const decibels = (ratio: number): number => (ratio > 0 ? 20 * Math.log10(ratio) : -Infinity)
