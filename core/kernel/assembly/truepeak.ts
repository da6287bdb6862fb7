// The largest interpolated sample; the plain reference is ../truepeak.ts, and 64-bit floats are worked out as there.

/** Half sums and half differences of the two phases, six of each. */
function tap(taps: usize, k: i32): f64 {
  return load<f64>(taps + <usize>(k << 3))
}

/** Two interpolated samples at `x`, each the larger of a phase and its mirror, exactly. */
function exact(x: usize, taps: usize): f64 {
  let ps: f64 = 0
  let pd: f64 = 0
  let qs: f64 = 0
  let qd: f64 = 0
  for (let k = 0; k < 6; k++) {
    const near = <f64>load<f32>(x - <usize>(k << 2))
    const far = <f64>load<f32>(x - <usize>((11 - k) << 2))
    const s = near + far
    const e = near - far
    ps += tap(taps, k) * s
    pd += tap(taps, 6 + k) * e
    qs += tap(taps, 12 + k) * s
    qd += tap(taps, 18 + k) * e
  }
  const p = abs(ps) + abs(pd)
  const q = abs(qs) + abs(qd)
  return p > q ? p : q
}

/**
 * The largest of `peak` and of `count` interpolated samples from `x` on, 32-bit floats with eleven before them. Four at
 * once are worked out roughly first, which is off by less than `margin`; only what may exceed the peak is worked out
 * exactly.
 */
export function truePeak(x: usize, count: i32, taps: usize, margin: f32, peak: f64): f64 {
  const rough = taps + 192
  let least = f32x4.splat(<f32>peak - margin)
  for (let i = 0; i < count; i += 4) {
    const at = x + <usize>(i << 2)
    let ps = f32x4.splat(0)
    let pd = ps
    let qs = ps
    let qd = ps
    for (let k = 0; k < 6; k++) {
      const near = v128.load(at - <usize>(k << 2))
      const far = v128.load(at - <usize>((11 - k) << 2))
      const s = f32x4.add(near, far)
      const e = f32x4.sub(near, far)
      const t = rough + <usize>(k << 2)
      ps = f32x4.add(ps, f32x4.mul(v128.load32_splat(t), s))
      pd = f32x4.add(pd, f32x4.mul(v128.load32_splat(t, 24), e))
      qs = f32x4.add(qs, f32x4.mul(v128.load32_splat(t, 48), s))
      qd = f32x4.add(qd, f32x4.mul(v128.load32_splat(t, 72), e))
    }
    const p = f32x4.add(f32x4.abs(ps), f32x4.abs(pd))
    const q = f32x4.add(f32x4.abs(qs), f32x4.abs(qd))
    if (!v128.any_true(f32x4.gt(f32x4.max(p, q), least))) continue
    for (let j = i; j < min(count, i + 4); j++) {
      const v = exact(x + <usize>(j << 2), taps)
      if (v > peak) peak = v
    }
    least = f32x4.splat(<f32>peak - margin)
  }
  return peak
}
