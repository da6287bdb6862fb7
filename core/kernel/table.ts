/** What the points of a stage stand for, of R′, G′ and B′: beyond its ends the last point holds. */
interface Domain {
  readonly low: readonly number[]
  readonly high: readonly number[]
}

/** One stage that R′, G′, B′ go through on their way through a look-up table. */
export type TableStage =
  /** Three rows: three factors, and what is added. */
  | { readonly kind: 'matrix'; readonly rows: readonly number[] }
  /** What lies outside is brought to the nearest end. */
  | { readonly kind: 'clamp'; readonly low: number; readonly high: number }
  /** A curve of each: as many points each, evenly from `low` to `high`; straight between them. */
  | ({ readonly kind: 'curves'; readonly points: readonly Float64Array[] } & Domain)
  /** A curve of each with a point for every half float (IEEE 754 binary16), by its bits; straight between them. */
  | { readonly kind: 'halves'; readonly points: readonly Float32Array[] }
  /**
   * A cube of `size` points a side, evenly from `low` to `high`: three numbers each, the place on blue changes first.
   * Between points it is worked out from the tetrahedron around, so that greys stay grey.
   */
  | ({ readonly kind: 'grid'; readonly size: number; readonly points: Float32Array } & Domain)

/** A table as the loops read it: a list of its stages in numbers, and the points of its cubes. */
export interface PackedTable {
  /** How many stages; of each its kind, how many numbers follow, and these. */
  readonly stages: Float64Array
  /** Cubes, four numbers a point: red, green, blue and nothing; curves over half floats, one after the other. */
  readonly grids: Float32Array
}

/** Kinds as numbers; assembly/table.ts has the same. */
const kinds = { matrix: 0, clamp: 1, curves: 2, grid: 3, halves: 4 } as const

/** How many points, where each domain begins, and how many points there are to a 1 of each value. */
const headOf = ({ low, high }: Domain, points: number) => [
  points,
  ...low,
  ...high.map((h, k) => (points - 1) / (h - low[k]!)),
]

/** A cube by itself: three lists of four that its points are found with, how many there may be before, the points. */
function packGrid({ low, high, size, points }: Extract<TableStage, { kind: 'grid' }>): Float32Array {
  const out = new Float32Array(16 + (points.length / 3) * 4)
  out.set(low, 0)
  out.set(
    high.map((h, k) => (size - 1) / (h - low[k]!)),
    4,
  )
  out.set([size - 1, size - 1, size - 1], 8)
  out.set([size - 2, size - 2, size - 2], 12)
  for (let i = 0; i < points.length; i += 3) out.set(points.subarray(i, i + 3), 16 + (i / 3) * 4)
  return out
}

/** A table for the loops. */
export function packTable(stages: readonly TableStage[]): PackedTable {
  const numbers = [stages.length]
  const grids: Float32Array[] = []
  let begins = 0
  for (const s of stages) {
    let own: readonly number[]
    if (s.kind === 'matrix') own = s.rows
    else if (s.kind === 'clamp') own = [s.low, s.high]
    else if (s.kind === 'curves') own = [...headOf(s, s.points[0]!.length), ...s.points.flatMap((p) => [...p])]
    else if (s.kind === 'grid') {
      own = [s.size, begins]
      grids.push(packGrid(s))
    } else {
      own = [begins]
      grids.push(...s.points)
    }
    begins = grids.reduce((n, g) => n + g.length, 0)
    numbers.push(kinds[s.kind], own.length)
    for (const n of own) numbers.push(n)
  }
  const all = new Float32Array(begins)
  let at = 0
  for (const g of grids) {
    all.set(g, at)
    at += g.length
  }
  return { stages: Float64Array.from(numbers), grids: all }
}

const f = Math.fround

/** Takes a colour through a table, in place: the reference of the kernel's; every step is rounded to 32 bits. */
export function throughTable({ stages: t, grids }: PackedTable, c: Float32Array): void {
  let at = 1
  for (let n = t[0]!; n > 0; n--) {
    const k = at + 2
    if (t[at] === kinds.matrix) {
      const [r, g, b] = c as unknown as [number, number, number]
      const m = (i: number) => f(t[k + i]!)
      for (let i = 0; i < 12; i += 4) c[i / 4] = f(f(f(m(i) * r) + f(m(i + 1) * g)) + f(m(i + 2) * b)) + m(i + 3)
    } else if (t[at] === kinds.clamp) {
      for (let i = 0; i < 3; i++) c[i] = Math.min(Math.max(c[i]!, f(t[k]!)), f(t[k + 1]!))
    } else if (t[at] === kinds.curves) {
      const count = t[k]!
      for (let i = 0; i < 3; i++) {
        const x = placed(c[i]!, t[k + 1 + i]!, t[k + 4 + i]!, count)
        const first = Math.min(Math.floor(x), count - 2)
        const p = k + 7 + i * count + first
        const [a, b] = [f(t[p]!), f(t[p + 1]!)]
        c[i] = a + f(f(b - a) * f(x - first))
      }
    } else if (t[at] === kinds.grid) throughGrid(t, k, grids, c)
    else for (let i = 0; i < 3; i++) c[i] = throughHalves(grids, t[k]! + i * 65_536, c[i]!)
    at += 2 + t[at + 1]!
  }
}

/** Where a value lies among points, from 0. */
const placed = (v: number, low: number, scale: number, count: number) =>
  Math.min(Math.max(f(f(v - f(low)) * f(scale)), 0), count - 1)

const [mostHalf, leastNormal, lastHalf] = [65_504, 2 ** -14, 0x7bff] as const
const asFloat = new Float32Array(1)
const asBits = new Uint32Array(asFloat.buffer)

/** A value by a curve over half floats that begins at a place of a list. */
function throughHalves(list: Float32Array, begins: number, v: number): number {
  const size = Math.min(Math.abs(v), mostHalf)
  let first: number
  let part: number
  if (size >= leastNormal) {
    asFloat[0] = size
    // the exponent counts from another start, and thirteen bits lie between two halves
    const bits = asBits[0]! - (112 << 23)
    first = bits >>> 13
    part = (bits & 8191) / 8192
  } else {
    first = Math.floor(size * 2 ** 24)
    part = size * 2 ** 24 - first
  }
  const from = begins + (v < 0 ? 0x8000 : 0)
  const a = list[from + first]!
  return f(a + f(f(list[from + Math.min(first + 1, lastHalf)]! - a) * part))
}

function throughGrid(t: Float64Array, k: number, grids: Float32Array, c: Float32Array): void {
  const [size, head] = [t[k]!, t[k + 1]!]
  const steps = [4 * size * size, 4 * size, 4]
  let from = head + 16
  const parts = steps.map((step, i) => {
    const x = f(f(f(c[i]!) - grids[head + i]!) * grids[head + 4 + i]!)
    const within = Math.min(Math.max(x, 0), grids[head + 8 + i]!)
    const first = Math.min(Math.floor(within), grids[head + 12 + i]!)
    from += first * step
    return { step, part: f(within - first) }
  })
  // from the corner nearest black to that nearest white, along the edges of what is further on first
  const [high, middle, low] = parts.sort((a, b) => b.part - a.part) as [Part, Part, Part]
  const weighed = (p: number, weight: number) => f(grids[p]! * f(weight))
  for (let i = 0; i < 3; i++) {
    let p = from + i
    const corner = weighed(p, 1 - high.part)
    const near = f(corner + weighed((p += high.step), high.part - middle.part))
    const further = f(near + weighed((p += middle.step), middle.part - low.part))
    c[i] = f(further + weighed(p + low.step, low.part))
  }
}

interface Part {
  readonly step: number
  readonly part: number
}
