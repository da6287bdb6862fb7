// Lines of a block turned into columns: what scaling and transforms share. All places are bytes.

/** Eight lines of eight 16-bit samples become eight columns, one after the other; `pitch` is bytes from line to line. */
export function turnLines(src: usize, pitch: usize, dst: usize): void {
  const a = v128.load(src)
  const b = v128.load(src + pitch)
  const c = v128.load(src + 2 * pitch)
  const d = v128.load(src + 3 * pitch)
  const e = v128.load(src + 4 * pitch)
  const f = v128.load(src + 5 * pitch)
  const g = v128.load(src + 6 * pitch)
  const h = v128.load(src + 7 * pitch)
  const ab = v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11)
  const cd = v128.shuffle<i16>(c, d, 0, 8, 1, 9, 2, 10, 3, 11)
  const ef = v128.shuffle<i16>(e, f, 0, 8, 1, 9, 2, 10, 3, 11)
  const gh = v128.shuffle<i16>(g, h, 0, 8, 1, 9, 2, 10, 3, 11)
  const AB = v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15)
  const CD = v128.shuffle<i16>(c, d, 4, 12, 5, 13, 6, 14, 7, 15)
  const EF = v128.shuffle<i16>(e, f, 4, 12, 5, 13, 6, 14, 7, 15)
  const GH = v128.shuffle<i16>(g, h, 4, 12, 5, 13, 6, 14, 7, 15)
  four(dst, ab, cd, ef, gh)
  four(dst + 64, AB, CD, EF, GH)
}

/** Four columns out of pairs of lines. */
function four(dst: usize, ab: v128, cd: v128, ef: v128, gh: v128): void {
  const upper = v128.shuffle<i32>(ab, cd, 0, 4, 1, 5)
  const lower = v128.shuffle<i32>(ef, gh, 0, 4, 1, 5)
  const upperNext = v128.shuffle<i32>(ab, cd, 2, 6, 3, 7)
  const lowerNext = v128.shuffle<i32>(ef, gh, 2, 6, 3, 7)
  v128.store(dst, v128.shuffle<i64>(upper, lower, 0, 2))
  v128.store(dst, v128.shuffle<i64>(upper, lower, 1, 3), 16)
  v128.store(dst, v128.shuffle<i64>(upperNext, lowerNext, 0, 2), 32)
  v128.store(dst, v128.shuffle<i64>(upperNext, lowerNext, 1, 3), 48)
}

/** Turns four lines of four values of 32 bits into columns: lines are 32 bytes apart, there and here. */
export function turnFloats(from: usize, to: usize): void {
  const a = v128.load(from)
  const b = v128.load(from, 32)
  const c = v128.load(from, 64)
  const d = v128.load(from, 96)
  const ab0 = v128.shuffle<i32>(a, b, 0, 4, 1, 5)
  const ab1 = v128.shuffle<i32>(a, b, 2, 6, 3, 7)
  const cd0 = v128.shuffle<i32>(c, d, 0, 4, 1, 5)
  const cd1 = v128.shuffle<i32>(c, d, 2, 6, 3, 7)
  v128.store(to, v128.shuffle<i64>(ab0, cd0, 0, 2))
  v128.store(to, v128.shuffle<i64>(ab0, cd0, 1, 3), 32)
  v128.store(to, v128.shuffle<i64>(ab1, cd1, 0, 2), 64)
  v128.store(to, v128.shuffle<i64>(ab1, cd1, 1, 3), 96)
}
