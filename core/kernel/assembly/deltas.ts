// Bytes apart by their evenness, each as its difference to the one before, and back; the plain reference is
// ../deltas.ts. Every part has room behind it.

/** `parts` is room for as many bytes. */
export function toDeltas(from: usize, count: i32, parts: usize, to: usize): void {
  const half = (count + 1) >> 1
  const other = parts + <usize>half
  // the even ones first: their last sixteen may go over into the odd ones
  for (let i = 0; i < half; i += 16) {
    const at = from + <usize>(i << 1)
    const even = v128.shuffle<u8>(
      v128.load(at),
      v128.load(at, 16),
      0,
      2,
      4,
      6,
      8,
      10,
      12,
      14,
      16,
      18,
      20,
      22,
      24,
      26,
      28,
      30,
    )
    v128.store(parts + <usize>i, even)
  }
  for (let i = 0; i < count - half; i += 16) {
    const at = from + <usize>(i << 1)
    const odd = v128.shuffle<u8>(
      v128.load(at),
      v128.load(at, 16),
      1,
      3,
      5,
      7,
      9,
      11,
      13,
      15,
      17,
      19,
      21,
      23,
      25,
      27,
      29,
      31,
    )
    v128.store(other + <usize>i, odd)
  }
  store<u8>(to, load<u8>(parts))
  for (let i = 1; i < count; i += 16) {
    const at = parts + <usize>i
    const step = i8x16.sub(v128.load(at), v128.load(at - 1))
    v128.store(to + <usize>i, i8x16.add(step, i8x16.splat(-128)))
  }
}

/** The sums of sixteen differences so far, from the last sum on. */
function summed(steps: v128, last: v128): v128 {
  const none = i8x16.splat(0)
  let v = i8x16.add(steps, v128.shuffle<u8>(none, steps, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30))
  v = i8x16.add(v, v128.shuffle<u8>(none, v, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29))
  v = i8x16.add(v, v128.shuffle<u8>(none, v, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27))
  v = i8x16.add(v, v128.shuffle<u8>(none, v, 0, 0, 0, 0, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23))
  return i8x16.add(v, last)
}

/** `parts` is room for as many bytes. */
export function fromDeltas(from: usize, count: i32, parts: usize, to: usize): void {
  const half = (count + 1) >> 1
  // the first is no difference, but counts as one to 128
  let last = i8x16.splat(-128)
  for (let i = 0; i < count; i += 16) {
    const steps = i8x16.add(v128.load(from + <usize>i), i8x16.splat(-128))
    const v = summed(steps, last)
    v128.store(parts + <usize>i, v)
    last = i8x16.splat(i8x16.extract_lane_s(v, 15))
  }
  const other = parts + <usize>half
  for (let i = 0; i < half; i += 16) {
    const even = v128.load(parts + <usize>i)
    const odd = v128.load(other + <usize>i)
    const at = to + <usize>(i << 1)
    v128.store(at, v128.shuffle<u8>(even, odd, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23))
    v128.store(at, v128.shuffle<u8>(even, odd, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16)
  }
}
