import { coefficients1, has, kinds, meanSizes, motions, scans, type Codes } from '../core/codec/mpeg2/tables'

// A plain encoder of MPEG-2 for tests: what encoders that can be had do not make, 4:2:2 and pictures of one field.

/** Codes and their lengths by what they stand for. */
export function codesOf(list: Codes): Map<number, readonly [code: number, length: number]> {
  const known = turned.get(list) ?? new Map<number, readonly [number, number]>()
  if (known.size === 0) list.lengths.forEach((n, i) => n && known.set(list.values[i]!, [i >> (list.bits - n), n]))
  turned.set(list, known)
  return known
}
const turned = new WeakMap<Codes, Map<number, readonly [code: number, length: number]>>()

/** Bits one after the other, as text of 0 and 1 until they are bytes. */
export class Out {
  private readonly parts: string[] = []
  put(value: number, bits: number): this {
    if (bits > 0) this.parts.push(value.toString(2).padStart(bits, '0').slice(-bits))
    return this
  }
  code(list: Codes, value: number): this {
    const [code, length] = codesOf(list).get(value)!
    return this.put(code, length)
  }
  start(code: number): this {
    const over = this.parts.reduce((n, p) => n + p.length, 0) % 8
    return this.put(0, (8 - over) % 8)
      .put(1, 24)
      .put(code, 8)
  }
  bytes(): number[] {
    const text = this.parts.join('')
    return Array.from({ length: Math.ceil(text.length / 8) }, (_, i) =>
      parseInt(text.slice(8 * i, 8 * i + 8).padEnd(8, '0'), 2),
    )
  }
}

export interface StreamShape {
  readonly width: number
  readonly height: number
  readonly chroma422: boolean
  readonly structure: 'frame' | 'fields' | 'progressive'
}

/** Headers of a stream: 4:2:2 profile at main level, or main profile, 25 frames a second. */
export function sequence(o: Out, { width, height, chroma422, structure }: StreamShape): void {
  o.start(0xb3).put(width, 12).put(height, 12).put(1, 4).put(3, 4).put(0x3ffff, 18).put(1, 1).put(112, 10).put(0, 3)
  o.start(0xb5)
    .put(1, 4)
    .put(chroma422 ? 0x85 : 0x48, 8)
    .put(structure === 'progressive' ? 1 : 0, 1)
  o.put(chroma422 ? 2 : 1, 2)
    .put(0, 4)
    .put(0, 12)
    .put(1, 1)
    .put(0, 8)
    .put(0, 8)
}

/** Headers of a picture: 1 I, 2 P; 1 upper field, 2 lower field, 3 frame. Means of 10 bits, table one, other scan. */
function picture(o: Out, reference: number, kind: 1 | 2, structure: 1 | 2 | 3, progressive: boolean): void {
  o.start(0).put(reference, 10).put(kind, 3).put(0xffff, 16)
  if (kind === 2) o.put(0, 1).put(7, 3)
  o.put(0, 1)
  o.start(0xb5).put(8, 4)
  const reach = kind === 2 ? 3 : 15
  o.put(reach, 4).put(reach, 4).put(15, 4).put(15, 4).put(2, 2).put(structure, 2)
  const whole = structure === 3
  o.put(whole ? 1 : 0, 1)
    .put(progressive ? 1 : 0, 1)
    .put(0, 1)
    .put(1, 1)
    .put(1, 1)
    .put(1, 1)
    .put(0, 1)
  o.put(progressive ? 1 : 0, 1)
    .put(progressive ? 1 : 0, 1)
    .put(0, 1)
}

const cosines = Array.from({ length: 64 }, (_, i) => {
  const [u, x] = [i >> 3, i & 7]
  return (u === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * x + 1) * u * Math.PI) / 16)
})

/** The transform of a block (H.262 annex A), the other way round. */
function forward(block: readonly number[]): number[] {
  const rows = block.map((_, i) => {
    const [y, u] = [i >> 3, i & 7]
    let sum = 0
    for (let x = 0; x < 8; x++) sum += cosines[8 * u + x]! * block[8 * y + x]!
    return sum
  })
  return rows.map((_, i) => {
    const [v, u] = [i >> 3, i & 7]
    let sum = 0
    for (let y = 0; y < 8; y++) sum += cosines[8 * v + y]! * rows[8 * y + u]!
    return sum
  })
}

/** An intra block: its mean against the one before, then runs and levels of all that is left at a coarse step. */
function intraBlock(o: Out, block: readonly number[], luma: boolean, before: number): number {
  const c = forward(block)
  // means of 10 bits count in halves
  const mean = Math.max(0, Math.min(1023, Math.round(c[0]! / 2)))
  const diff = mean - before
  const size = diff === 0 ? 0 : Math.floor(Math.log2(Math.abs(diff))) + 1
  o.code(meanSizes[luma ? 0 : 1], size)
  o.put(diff < 0 ? diff + (1 << size) - 1 : diff, size)
  let run = 0
  for (let i = 1; i < 64; i++) {
    const level = Math.max(-100, Math.min(100, Math.round(c[scans[1]![i]!]! / 20)))
    if (level === 0) {
      run++
      continue
    }
    const pair = (run << 6) | Math.abs(level)
    const known = Math.abs(level) < 64 && codesOf(coefficients1).has(pair)
    if (known) o.code(coefficients1, pair).put(level < 0 ? 1 : 0, 1)
    else
      o.code(coefficients1, -2)
        .put(run, 6)
        .put(level & 0xfff, 12)
    run = 0
  }
  o.code(coefficients1, -1)
  return mean
}

/** Samples of a plane at a place, whatever is asked. */
export type Paint = (plane: 0 | 1 | 2, x: number, y: number) => number

/** An I picture of what is painted; every other macroblock of a frame of fields has its lines field by field. */
function intraPicture(o: Out, shape: StreamShape, paint: Paint, structure: 1 | 2 | 3): void {
  const { width, height, chroma422 } = shape
  const fields = structure !== 3
  const rows = height / (fields ? 32 : 16)
  const at = (y: number) => (fields ? 2 * y + structure - 1 : y)
  for (let row = 0; row < rows; row++) {
    o.start(row + 1)
      .put(6, 5)
      .put(0, 1)
    const means = [512, 512, 512]
    for (let column = 0; column < width / 16; column++) {
      const apart = shape.structure === 'frame' && column % 2 === 1
      o.put(1, 1).code(kinds[1]!, has.intra)
      if (shape.structure === 'frame') o.put(apart ? 1 : 0, 1)
      for (let i = 0; i < (chroma422 ? 8 : 6); i++) {
        const k = (i < 4 ? 0 : 1 + (i & 1)) as 0 | 1 | 2
        const below = k === 0 ? i >> 1 : (i - 4) >> 1
        const left = k === 0 ? 16 * column + 8 * (i & 1) : 8 * column
        const top = (k === 0 || chroma422 ? 16 : 8) * row
        const inFields = apart && (k === 0 || chroma422)
        const block = Array.from({ length: 64 }, (_, n) => {
          const y = top + (inFields ? below + 2 * (n >> 3) : 8 * below + (n >> 3))
          return paint(k, left + (n & 7), at(y))
        })
        means[k] = intraBlock(o, block, k === 0, means[k]!)
      }
    }
  }
}

/** A P picture that only moves what was there, each macroblock another way, fields from either field before. */
function movedPicture(o: Out, shape: StreamShape, structure: 1 | 2 | 3): void {
  const fields = structure !== 3
  const rows = shape.height / (fields ? 32 : 16)
  const columns = shape.width / 16
  for (let row = 0; row < rows; row++) {
    o.start(row + 1)
      .put(6, 5)
      .put(0, 1)
    let before = [0, 0]
    for (let column = 0; column < columns; column++) {
      // inwards, so that nothing is asked from beyond the picture
      const wanted = [
        (column < columns / 2 ? 1 : -1) * ((7 * column + row) % 23),
        (row < rows / 2 ? 1 : -1) * ((5 * row + 3 * column) % 19),
      ]
      o.put(1, 1).code(kinds[2]!, has.forward)
      if (fields) o.put(1, 2).put((row + column) & 1, 1)
      else if (shape.structure === 'frame') o.put(2, 2)
      for (const t of [0, 1]) {
        let delta = wanted[t]! - before[t]!
        // reaches of 3: vectors wrap at 64
        if (delta < -64) delta += 128
        if (delta > 63) delta -= 128
        const size = Math.abs(delta) - 1
        o.code(motions, delta === 0 ? 0 : (size >> 2) + 1)
        if (delta !== 0) o.put(delta < 0 ? 1 : 0, 1).put(size & 3, 2)
      }
      before = wanted
    }
  }
}

/** An I picture of what is painted, and a P picture that moves it: access units in order. */
export function plainStream(shape: StreamShape, paint: Paint): Uint8Array[] {
  const progressive = shape.structure === 'progressive'
  const first = new Out()
  sequence(first, shape)
  if (shape.structure === 'fields') {
    picture(first, 0, 1, 1, false)
    intraPicture(first, shape, paint, 1)
    // the second field leans on the first, and on nothing else
    picture(first, 0, 1, 2, false)
    intraPicture(first, shape, paint, 2)
  } else {
    picture(first, 0, 1, 3, progressive)
    intraPicture(first, shape, paint, 3)
  }
  const second = new Out()
  for (const structure of shape.structure === 'fields' ? ([1, 2] as const) : ([3] as const)) {
    picture(second, 1, 2, structure, progressive)
    movedPicture(second, shape, structure)
  }
  const end = [0, 0, 1, 0xb7]
  return [Uint8Array.from(first.bytes()), Uint8Array.from([...second.bytes(), ...end])]
}
