/** Samples that no filter is kind to: noise, the lowest and the highest, the same for the same seed. */
export function noise<T extends Uint8Array | Uint16Array>(out: T, most: number, seed: number): T {
  let state = seed
  for (let i = 0; i < out.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    out[i] = state & 0x10000 ? (state & 0x20000 ? most : 0) : Math.floor((state / 2 ** 32) * (most + 1))
  }
  return out
}
