import type { Meter } from './meter'

/**
 * How many bits of whole numbers carry anything, of all channels of a sound together: 24 bits in which the lowest eight
 * never move carry 16. Null where every sample is nought. Numbers are fed as fractions of full scale, as they are
 * decoded; of more than 24 bits it is only told that they are not fewer.
 */
export function carriedBits(): Meter<readonly Float32Array[], number | null> {
  let moved = 0
  return {
    feed(block) {
      // once the 24th bit has moved, there is nothing more to learn: floats have no more for certain
      for (const x of block) for (let i = 0; i < x.length && !(moved & 0x1ff); i++) moved |= x[i]! * 0x80000000
    },
    // the lowest bit that moved, counted from the highest
    result: () => (moved === 0 ? null : Math.clz32(moved & -moved) + 1),
  }
}
