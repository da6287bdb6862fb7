import { sample } from './sample'

// Small RGB pictures; the plain reference is ../preview.ts. All places are bytes, those of samples are in samples.

function at(table: usize, i: i32): i32 {
  return load<i32>(table + <usize>(i << 2))
}

function clamped(v: i32): u8 {
  return <u8>max(0, min(255, v))
}

/**
 * `columns` holds two places for each sample of a line out, then two for each pair of them in a chroma line; `lines`
 * two luma lines and one chroma line for each line out.
 */
export function preview(
  bytes: i32,
  y: usize,
  u: usize,
  v: usize,
  width: i32,
  cw: i32,
  columns: usize,
  lines: usize,
  outWidth: i32,
  outHeight: i32,
  rgb: usize,
  toRed: i32,
  greenOfCb: i32,
  greenOfCr: i32,
  toBlue: i32,
): void {
  const depth = bytes === 1 ? 0 : 2
  const shift = 16 + depth
  const black = 64 << depth
  const grey = 256 << depth
  const half = 1 << (shift - 1)
  const pairs = columns + <usize>(outWidth << 3)
  let out = rgb
  for (let n = 0; n < outHeight; n++) {
    const a = y + <usize>(at(lines, 3 * n) * width * bytes)
    const b = y + <usize>(at(lines, 3 * n + 1) * width * bytes)
    const c = at(lines, 3 * n + 2) * cw * bytes
    for (let x = 0; x < outWidth;) {
      const left = at(pairs, x)
      const right = at(pairs, x + 1)
      const cb = sample(u + <usize>c, left, bytes) + sample(u + <usize>c, right, bytes) - grey
      const cr = sample(v + <usize>c, left, bytes) + sample(v + <usize>c, right, bytes) - grey
      const red = toRed * cr + half
      const green = half - greenOfCb * cb - greenOfCr * cr
      const blue = toBlue * cb + half
      for (const end = min(outWidth, x + 2); x < end; x++) {
        const p = at(columns, 2 * x)
        const q = at(columns, 2 * x + 1)
        const sum = sample(a, p, bytes) + sample(a, q, bytes) + sample(b, p, bytes) + sample(b, q, bytes)
        const l = 19077 * (sum - black)
        store<u8>(out, clamped((l + red) >> shift))
        store<u8>(out, clamped((l + green) >> shift), 1)
        store<u8>(out, clamped((l + blue) >> shift), 2)
        out += 3
      }
    }
  }
}
