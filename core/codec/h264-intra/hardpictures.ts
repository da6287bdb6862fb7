import { bt709 } from '../../media/colour'
import { makeRate } from '../../time/rate'
import type { Format } from './write'
import { emptyPicture, type Picture } from '../../picture/picture'

/** Numbers that look like chance and are the same every time: whole ones below `n`. */
export function chance(seed: number): (n: number) => number {
  let s = seed >>> 0
  return (n) => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0
    return Math.floor((s / 2 ** 32) * n)
  }
}

/** A small format, of frames coded by variable lengths where nothing else is said. */
export const smallFormat = (f: Partial<Format> = {}): Format => ({
  ...{ width: 80, height: 64, depth: 10, chroma: 2, fields: null, level: 41, arithmetic: false },
  ...{ pixelAspect: '1:1', rate: makeRate(25), colour: bt709 },
  ...f,
})

/** A picture of slopes, edges and noise: `noise` codes of it. */
export function hardPicture(
  f: Pick<Format, 'width' | 'height' | 'chroma' | 'depth'>,
  seed: number,
  noise: number,
): Picture {
  const p = emptyPicture(f.width, f.height, f.chroma === 1 ? '4:2:0' : '4:2:2', f.depth)
  const of = chance(seed)
  const most = (1 << f.depth) - 1
  p.planes.forEach((plane, k) => {
    const width = k === 0 ? f.width : f.width / 2
    plane.forEach((_, i) => {
      const [x, y] = [i % width, Math.floor(i / width)]
      const shape = (x * 5 + y * 3) / 1500 + (Math.floor(x / 11) % 2) * 0.3 + (Math.floor((x + y) / 7) % 3) * 0.1
      plane[i] = Math.max(0, Math.min(most, Math.floor((shape % 1) * most * 0.8) + of(noise + 1) - (noise >> 1)))
    })
  })
  return p
}
