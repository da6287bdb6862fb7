// Samples of Cb Y Cr Y in planes of their own; the plain reference is ../uyvy.ts. Every part has room behind it.

/** Lines of `pairs` times four bytes; what is written behind a line of luma is written over by the next. */
export function unpackUyvy(from: usize, width: i32, height: i32, y: usize, u: usize, v: usize): void {
  const pairs = (width + 1) >> 1
  let at = from
  for (let line = 0; line < height; line++) {
    for (let i = 0; i < pairs; i += 8) {
      const a = v128.load(at + <usize>(i << 2))
      const b = v128.load(at + <usize>(i << 2), 16)
      const luma = v128.shuffle<u8>(a, b, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31)
      const chroma = v128.shuffle<u8>(a, b, 0, 4, 8, 12, 16, 20, 24, 28, 2, 6, 10, 14, 18, 22, 26, 30)
      v128.store(y + <usize>(i << 1), luma)
      v128.store64_lane(u + <usize>i, chroma, 0)
      v128.store64_lane(v + <usize>i, chroma, 1)
    }
    at += <usize>(pairs << 2)
    y += <usize>width
    u += <usize>pairs
    v += <usize>pairs
  }
}
