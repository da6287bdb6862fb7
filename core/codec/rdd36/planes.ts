import { emptyPicture, type Picture } from '../../picture/picture'
import { columnsOf, rowsOf, type FrameHead } from './headers'

/** Planes of whole macroblocks that a frame is decoded into: luma, Cb, Cr. */
export interface Planes {
  readonly samples: readonly [Uint16Array, Uint16Array, Uint16Array]
  /** Samples of a line of each. */
  readonly widths: readonly [number, number, number]
}

export function planesOf(head: FrameHead): Planes {
  const step = head.fields === 'none' ? 1 : 2
  const lines = rowsOf(head, 0, step) * step * 16
  const width = columnsOf(head) * 16
  const widths = [width, ...(head.chroma === '4:2:2' ? [width / 2, width / 2] : [width, width])] as [
    ...[number, number, number],
  ]
  const room = (k: 0 | 1 | 2) => new Uint16Array(widths[k] * lines)
  return { widths, samples: [room(0), room(1), room(2)] }
}

/** Where a block of a macroblock stands: luma and chroma of 4:2:2 by lines, chroma of 4:4:4 by columns. */
export function placeOf(chroma: boolean, full: boolean, block: number): readonly [x: number, y: number] {
  if (!chroma) return [(block & 1) * 8, (block >> 1) * 8]
  return full ? [(block >> 1) * 8, (block & 1) * 8] : [0, block * 8]
}

/** Chroma of every sample as that of every other, weighed 1:2:1 around it. */
function halved(plane: Uint16Array, stride: number, width: number, to: Uint16Array): void {
  const half = (width + 1) >> 1
  for (let y = 0; y * half < to.length; y++)
    for (let x = 0; x < half; x++) {
      const at = y * stride + 2 * x
      const [before, behind] = [x === 0 ? at : at - 1, 2 * x + 1 < width ? at + 1 : at]
      to[y * half + x] = (plane[before]! + 2 * plane[at]! + plane[behind]! + 2) >> 2
    }
}

/** The picture of a frame, as 4:2:2. */
export function pictureOf({ samples, widths }: Planes, { width, height, chroma }: FrameHead): Picture {
  const out = emptyPicture(width, height, '4:2:2', 10)
  samples.forEach((plane, k) => {
    const to = out.planes[k] as Uint16Array
    if (k > 0 && chroma === '4:4:4') return halved(plane, widths[k]!, width, to)
    const own = to.length / height
    for (let y = 0; y < height; y++) to.set(plane.subarray(y * widths[k]!, y * widths[k]! + own), y * own)
  })
  return out
}
