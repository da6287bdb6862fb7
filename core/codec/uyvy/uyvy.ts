import { unpackUyvy } from '../../kernel/uyvy'
import type { Picture } from '../../picture/picture'

/** Bytes of one picture of 4:2:2 8 bit in the order Cb Y Cr Y. */
export function uyvySize(width: number, height: number): number {
  return ((width + 1) >> 1) * 4 * height
}

/** Unpacks one picture. `bytes` must hold {@link uyvySize} bytes. */
export function decodeUyvy(bytes: Uint8Array, width: number, height: number): Picture {
  return { width, height, chroma: '4:2:2', bitDepth: 8, planes: unpackUyvy(bytes, width, height) }
}
