import { between, codes, differences, doubledEnds, halved, number, row, samples } from './signal'

// Y′CbCr as R′, G′, B′ one after the other, and back; the plain reference is ../rgb.ts, and floats of 32 bits are worked
// out as there. All places are bytes.

/** `lines` is room for two lines of differences, each with room for sixteen numbers more. */
export function toRgb(
  bytes: i32,
  Y: usize,
  U: usize,
  V: usize,
  c: usize,
  to: usize,
  lines: usize,
  width: i32,
  height: i32,
): void {
  const cw = (width + 1) >> 1
  const u = lines
  const v = lines + <usize>((width + 16) << 2)
  for (let y = 0; y < height; y++) {
    differences(U, y * cw, cw, bytes, number(c, 1), u)
    differences(V, y * cw, cw, bytes, number(c, 1), v)
    for (let x = 0; x < width; x += 4) {
      const i = y * width + x
      const l = f32x4.mul(f32x4.sub(samples(Y, i, bytes), number(c, 0)), number(c, 2))
      const du = between(u, x)
      const dv = between(v, x)
      const r = f32x4.add(l, f32x4.mul(number(c, 3), dv))
      const g = f32x4.add(f32x4.add(l, f32x4.mul(number(c, 4), du)), f32x4.mul(number(c, 5), dv))
      const b = f32x4.add(l, f32x4.mul(number(c, 6), du))
      const rg = v128.shuffle<i32>(r, g, 0, 4, 1, 5)
      const late = v128.shuffle<i32>(r, g, 2, 6, 3, 7)
      const at = to + <usize>(i * 12)
      v128.store(at, v128.shuffle<i32>(rg, b, 0, 1, 4, 2))
      v128.store(at, v128.shuffle<i32>(v128.shuffle<i32>(g, b, 1, 5, 1, 5), late, 0, 1, 4, 5), 16)
      v128.store(at, v128.shuffle<i32>(b, late, 2, 6, 7, 3), 32)
    }
  }
}

/** Codes as words of 16 bits, whatever their depth. */
export function fromRgb(
  rgb: usize,
  c: usize,
  outY: usize,
  outU: usize,
  outV: usize,
  lines: usize,
  width: i32,
  height: i32,
): void {
  const cw = (width + 1) >> 1
  const cb = lines
  const cr = lines + <usize>((width + 16) << 2)
  const least = number(c, 8)
  const most = number(c, 9)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const i = y * width + x
      const at = rgb + <usize>(i * 12)
      const first = v128.load(at)
      const second = v128.load(at, 16)
      const third = v128.load(at, 32)
      const r = v128.shuffle<i32>(v128.shuffle<i32>(first, second, 0, 3, 6, 6), third, 0, 1, 2, 5)
      const g = v128.shuffle<i32>(v128.shuffle<i32>(first, second, 1, 4, 7, 7), third, 0, 1, 2, 6)
      const b = v128.shuffle<i32>(v128.shuffle<i32>(first, second, 2, 5, 5, 5), third, 0, 1, 4, 7)
      const luma = row(c, 0, r, g, b)
      const words = codes(f32x4.add(number(c, 3), f32x4.mul(number(c, 4), luma)), least, most)
      v128.store64_lane(outY + <usize>(i << 1), words, 0)
      v128.store(cb + <usize>(x << 2), f32x4.sub(b, luma), 4)
      v128.store(cr + <usize>(x << 2), f32x4.sub(r, luma), 4)
    }
    doubledEnds(cb, width)
    doubledEnds(cr, width)
    const to = <usize>((y * cw) << 1)
    halved(cb, cw, number(c, 5), number(c, 6), least, most, outU + to)
    halved(cr, cw, number(c, 5), number(c, 7), least, most, outV + to)
  }
}
