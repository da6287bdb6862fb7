import type { Picture } from '../../picture/picture'

/** Bytes of one picture of 4:2:2 8 bit in the order Cb Y Cr Y. */
export function uyvySize(width: number, height: number): number {
  return ((width + 1) >> 1) * 4 * height
}

/** Unpacks one picture. `bytes` must hold {@link uyvySize} bytes. */
export function decodeUyvy(bytes: Uint8Array, width: number, height: number): Picture {
  const cw = (width + 1) >> 1
  const Y = new Uint8Array(width * height)
  const U = new Uint8Array(cw * height)
  const V = new Uint8Array(cw * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0, at = y * cw * 4; x < cw; x++, at += 4) {
      U[y * cw + x] = bytes[at]!
      Y[y * width + 2 * x] = bytes[at + 1]!
      V[y * cw + x] = bytes[at + 2]!
      if (2 * x + 1 < width) Y[y * width + 2 * x + 1] = bytes[at + 3]!
    }
  }
  return { width, height, chroma: '4:2:2', bitDepth: 8, planes: [Y, U, V] }
}
