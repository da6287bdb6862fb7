/** Seeded random numbers below 2^32 (a linear congruence), so that a corpus is the same everywhere. */
export function seeded(seed: number): () => number {
  let x = seed >>> 0
  return () => {
    x = (Math.imul(x, 1664525) + 1013904223) >>> 0
    return x
  }
}

/** A damaged copy of some bytes: flipped, cut out, doubled, overwritten with extremes, or cut short. */
export function mutate(bytes: Uint8Array, next: () => number): Uint8Array {
  let out = Uint8Array.from(bytes)
  const pick = (n: number) => (n <= 0 ? 0 : (next() >>> 8) % n)
  for (let n = 1 + pick(4); n > 0; n--) {
    const at = pick(out.length)
    const length = pick(Math.min(40, out.length - at))
    switch (pick(6)) {
      case 0:
        out[at] = next() >>> 24
        break
      case 1:
        out.fill([0, 0xff, 0x39, 0x7f][pick(4)]!, at, at + Math.min(length, 8))
        break
      case 2:
        out = Uint8Array.from([...out.subarray(0, at), ...out.subarray(at + length)])
        break
      case 3:
        out = Uint8Array.from([...out.subarray(0, at + length), ...out.subarray(at)])
        break
      case 4:
        out = out.slice(0, at)
        break
      case 5:
        out.set(
          out
            .slice(pick(out.length))
            .subarray(0, out.length - at)
            .subarray(0, length),
          at,
        )
    }
  }
  return out
}
