// Sums of each column over bands of lines; the plain reference is ../bands.ts. All places are bytes.

/** Eight samples as 16-bit integers. */
function eight(at: usize, bytes: i32): v128 {
  return bytes === 1 ? v128.load_ext<u8>(at) : v128.load(at)
}

/**
 * Adds up the lines of each of so many bands of a plane, whose first line and the one behind its last stand at `edges`:
 * 32-bit sums, `width` of them a band.
 */
export function bandSums(bytes: i32, plane: usize, width: i32, edges: usize, bands: i32, out: usize): void {
  const line = <usize>(width * bytes)
  for (let band = 0; band < bands; band++) {
    const top = load<i32>(edges + <usize>(band * 8))
    const bottom = load<i32>(edges + <usize>(band * 8), 4)
    for (let x = 0; x < width; x += 8) {
      let low = i32x4.splat(0)
      let high = i32x4.splat(0)
      let at = plane + <usize>top * line + <usize>(x * bytes)
      for (let y = top; y < bottom; y++) {
        const v = eight(at, bytes)
        low = i32x4.add(low, i32x4.extend_low_i16x8_u(v))
        high = i32x4.add(high, i32x4.extend_high_i16x8_u(v))
        at += line
      }
      // what goes beyond a line is written over by the next band
      const to = out + <usize>((band * width + x) * 4)
      v128.store(to, low)
      v128.store(to, high, 16)
    }
  }
}
