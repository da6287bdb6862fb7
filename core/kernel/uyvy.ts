import { kernel } from './kernel'

type Planes = [y: Uint8Array, u: Uint8Array, v: Uint8Array]

const planesOf = (width: number, height: number): Planes => {
  const pairs = (width + 1) >> 1
  return [new Uint8Array(width * height), new Uint8Array(pairs * height), new Uint8Array(pairs * height)]
}

/** Planes of 4:2:2 out of lines of Cb Y Cr Y, four bytes for every two samples of luma. */
export function unpackUyvyPlain(bytes: Uint8Array, width: number, height: number): Planes {
  const pairs = (width + 1) >> 1
  const [Y, U, V] = planesOf(width, height)
  for (let y = 0; y < height; y++)
    for (let x = 0, at = y * pairs * 4; x < pairs; x++, at += 4) {
      U[y * pairs + x] = bytes[at]!
      Y[y * width + 2 * x] = bytes[at + 1]!
      V[y * pairs + x] = bytes[at + 2]!
      if (2 * x + 1 < width) Y[y * width + 2 * x + 1] = bytes[at + 3]!
    }
  return [Y, U, V]
}
/** The same, by the kernel where there is one. */
export function unpackUyvy(bytes: Uint8Array, width: number, height: number): Planes {
  const fast = kernel()
  if (!fast) return unpackUyvyPlain(bytes, width, height)
  const planes = planesOf(width, height)
  const [from, ...to] = fast.hold([bytes], ...planes.map((p) => p.length)) as [number, number, number, number]
  fast.run.unpackUyvy(from, width, height, ...to)
  planes.forEach((p, i) => fast.take(to[i]!, p))
  return planes
}
