// Energy of K-weighted sound, two filters at once; the plain reference is ../weighting.ts, and so is every rounding.

/** Two numbers, for the two filters. */
function both(at: usize): v128 {
  return v128.load(at)
}

/**
 * Sums of squares of `count` samples of `a` and of `b`, 32-bit floats, through the shelf and the high pass. `states`
 * has the four numbers that each filter stands at, in pairs, and gets them as they are after; then come the two sums.
 * `taps` are b0, b1, b2, a1 and a2 of the shelf, and a1 and a2 of the high pass.
 */
export function weigh(a: usize, b: usize, count: i32, taps: usize, states: usize): void {
  const b0 = v128.load64_splat(taps)
  const b1 = v128.load64_splat(taps, 8)
  const b2 = v128.load64_splat(taps, 16)
  const a1 = v128.load64_splat(taps, 24)
  const a2 = v128.load64_splat(taps, 32)
  const h1 = v128.load64_splat(taps, 40)
  const h2 = v128.load64_splat(taps, 48)
  const twice = f64x2.splat(-2)
  let z1 = both(states)
  let z2 = both(states + 16)
  let z3 = both(states + 32)
  let z4 = both(states + 48)
  let sum = f64x2.splat(0)
  for (let i = 0; i < count; i++) {
    const at = <usize>(i << 2)
    const v = f64x2.replace_lane(f64x2.splat(<f64>load<f32>(a + at)), 1, <f64>load<f32>(b + at))
    const u = f64x2.add(f64x2.mul(b0, v), z1)
    z1 = f64x2.add(f64x2.sub(f64x2.mul(b1, v), f64x2.mul(a1, u)), z2)
    z2 = f64x2.sub(f64x2.mul(b2, v), f64x2.mul(a2, u))
    const y = f64x2.add(u, z3)
    z3 = f64x2.add(f64x2.sub(f64x2.mul(twice, u), f64x2.mul(h1, y)), z4)
    z4 = f64x2.sub(u, f64x2.mul(h2, y))
    sum = f64x2.add(sum, f64x2.mul(y, y))
  }
  v128.store(states, z1)
  v128.store(states + 16, z2)
  v128.store(states + 32, z3)
  v128.store(states + 48, z4)
  v128.store(states + 64, sum)
}
