/** A frame as it is decoded: whole macroblocks, 8 bits. */
export interface Frame {
  /** Of luma; chroma has half of it. */
  readonly width: number
  readonly height: number
  readonly chromaHeight: number
  readonly planes: readonly [Uint8Array, Uint8Array, Uint8Array]
  /** The same samples: what is written is rounded, and cut off at 0 and 255. */
  readonly clamped: readonly Uint8ClampedArray[]
}

export function emptyFrame(width: number, height: number, chroma422: boolean): Frame {
  const chromaHeight = chroma422 ? height : height / 2
  const chroma = () => new Uint8Array((width / 2) * chromaHeight).fill(128)
  const planes = [new Uint8Array(width * height).fill(16), chroma(), chroma()] as const
  return { width, height, chromaHeight, planes, clamped: planes.map((p) => new Uint8ClampedArray(p.buffer)) }
}

/** Lines of a frame that are read from or written to: all of them, or those of a field. */
export interface Lines {
  readonly frame: Frame
  /** 0 the frame or its upper field, 1 its lower field. */
  readonly first: 0 | 1
  /** 1 all lines, 2 every other. */
  readonly step: 1 | 2
}

/** One prediction: a block of luma at (x, y) of `to`, `height` lines high, and the chroma with it. */
export interface Prediction {
  readonly to: Lines
  readonly from: Lines
  /** Of the block in luma, in the lines of `to`. */
  readonly x: number
  readonly y: number
  readonly height: number
  /** In half samples. */
  readonly alongBy: number
  readonly downBy: number
  /** Whether it is the second of two, whose mean is taken. */
  readonly mean: boolean
}

/** Writes a prediction of 16 samples by `height` lines, and of its chroma (H.262 7.6.4). */
export function predict(p: Prediction): void {
  plane(p, 0, p.x, p.y, 16, p.height, p.alongBy, p.downBy)
  const { frame } = p.to
  const less = frame.chromaHeight < frame.height
  const down = less ? (p.downBy / 2) | 0 : p.downBy
  const [y, height] = less ? [p.y >> 1, p.height >> 1] : [p.y, p.height]
  const along = (p.alongBy / 2) | 0
  plane(p, 1, p.x >> 1, y, 8, height, along, down)
  plane(p, 2, p.x >> 1, y, 8, height, along, down)
}

function plane(
  { to, from, mean }: Prediction,
  k: 0 | 1 | 2,
  x: number,
  y: number,
  width: number,
  height: number,
  along: number,
  down: number,
): void {
  const whole = k === 0 ? from.frame.width : from.frame.width >> 1
  const lines = (k === 0 ? from.frame.height : from.frame.chromaHeight) / from.step
  const source = from.frame.planes[k]
  const out = to.frame.planes[k]
  const [sourceStep, outStep] = [whole * from.step, whole * to.step]
  const [left, top] = [x + (along >> 1), y + (down >> 1)]
  const [halfX, halfY] = [along & 1, down & 1]
  const inside = left >= 0 && top >= 0 && left + width + halfX <= whole && top + height + halfY <= lines
  for (let v = 0; v < height; v++) {
    const o = to.first * whole + (y + v) * outStep + x
    const a = from.first * whole + Math.min(Math.max(top + v, 0), lines - 1) * sourceStep
    const b = halfY ? from.first * whole + Math.min(Math.max(top + v + 1, 0), lines - 1) * sourceStep : a
    if (inside) line(source, a + left, b + left, halfX, out, o, width, mean)
    else beside(source, a, b, left, halfX, whole, out, o, width, mean)
  }
}

/** A line of a prediction: the mean of two lines `a` and `b`, and with `half` of their neighbours (7.6.4). */
function line(
  source: Uint8Array,
  a: number,
  b: number,
  half: number,
  out: Uint8Array,
  o: number,
  width: number,
  mean: boolean,
): void {
  if (a === b && half === 0 && !mean) {
    out.set(source.subarray(a, a + width), o)
    return
  }
  for (let u = 0; u < width; u++) {
    // where there is no half the same is counted twice: the mean is what it was
    const v = (source[a + u]! + source[a + u + half]! + source[b + u]! + source[b + u + half]! + 2) >> 2
    out[o + u] = mean ? (out[o + u]! + v + 1) >> 1 : v
  }
}

/** The same where a part of it lies beside the picture, whose last sample goes on there. */
function beside(
  source: Uint8Array,
  a: number,
  b: number,
  left: number,
  half: number,
  whole: number,
  out: Uint8Array,
  o: number,
  width: number,
  mean: boolean,
): void {
  for (let u = 0; u < width; u++) {
    const l = Math.min(Math.max(left + u, 0), whole - 1)
    const r = Math.min(Math.max(left + u + half, 0), whole - 1)
    const v = (source[a + l]! + source[a + r]! + source[b + l]! + source[b + r]! + 2) >> 2
    out[o + u] = mean ? (out[o + u]! + v + 1) >> 1 : v
  }
}
