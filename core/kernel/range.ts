import { kernel, type Kernel } from './kernel'
import type { Samples2d } from './scale'

/** The shares of red and of blue in luma. */
type Weights = readonly [kr: number, kb: number]

/** Planes of a picture whose levels are asked: narrow range, 8 bits in bytes or 10 in 16-bit words. */
export interface RangeJob {
  readonly planes: readonly [Samples2d, Samples2d, Samples2d]
  readonly width: number
  readonly height: number
  /** Lines of a chroma plane. */
  readonly chromaLines: number
  /** Kr and Kb of its matrix; where none is known those of BT.709 from 720 lines on, else of BT.601. */
  readonly weights?: Weights
}

/** What is found: of luma in every sample; of R′, G′ and B′ where chroma is, which is at every other of a line. */
export interface RangeFound {
  readonly samples: number
  readonly sites: number
  /** Lowest and highest luma, as codes. */
  readonly lowest: number
  readonly highest: number
  /** Samples outside −1 % … 103 % in luma, and sites outside −5 % … 105 % in R′, G′ or B′ (EBU R 103). */
  readonly luma: number
  readonly gamut: number
}

const weightsOf = ({ weights, height }: RangeJob): Weights =>
  weights ?? (height >= 720 ? [0.2126, 0.0722] : [0.299, 0.114])

const unitOf = (plane: Samples2d) => (plane instanceof Uint16Array ? 4 : 1)

/**
 * Luma codes that are inside, those whose R′, G′ and B′ are where there is no colour, and how far the larger colour
 * difference can push them.
 */
function bounds([kr, kb]: Weights, unit: number) {
  return {
    luma: [16 * unit - 0.01 * 219 * unit, 16 * unit + 1.03 * 219 * unit] as const,
    floor: 16 * unit - 0.05 * 219 * unit,
    ceiling: 16 * unit + 1.05 * 219 * unit,
    furthest: Math.max(2 * (1 - kr), 2 * (1 - kb)) * (219 / 224),
  }
}

export function rangePlain(job: RangeJob): RangeFound {
  const { planes, width, height, chromaLines } = job
  const [Y, U, V] = planes
  const unit = unitOf(Y)
  const cw = (width + 1) >> 1
  const [kr, kb] = weightsOf(job)
  const kg = 1 - kr - kb
  const [rv, bu] = [2 * (1 - kr), 2 * (1 - kb)]
  const [gv, gu] = [-(rv * kr) / kg, -(bu * kb) / kg]
  const half = chromaLines < height ? 1 : 0
  const [yScale, cScale] = [1 / (219 * unit), 1 / (224 * unit)]
  const { luma: within } = bounds([kr, kb], unit)
  let [luma, gamut, lowest, highest] = [0, 0, Infinity, -Infinity]
  for (const code of Y) {
    if (code < lowest) lowest = code
    if (code > highest) highest = code
    if (code < within[0] || code > within[1]) luma++
  }
  for (let y = 0; y < height; y++) {
    const line = (y >> half) * cw
    for (let x = 0; x < cw; x++) {
      const l = (Y[y * width + 2 * x]! - 16 * unit) * yScale
      const u = (U[line + x]! - 128 * unit) * cScale
      const v = (V[line + x]! - 128 * unit) * cScale
      const r = l + rv * v
      const g = l + gv * v + gu * u
      const b = l + bu * u
      if (r < -0.05 || r > 1.05 || g < -0.05 || g > 1.05 || b < -0.05 || b > 1.05) gamut++
    }
  }
  return { samples: width * height, sites: cw * height, lowest, highest, luma, gamut }
}

/** The same by the kernel where there is one. */
export function rangeOf(job: RangeJob): RangeFound {
  const fast = kernel()
  return fast ? rangeFast(job, fast) : rangePlain(job)
}

function rangeFast(job: RangeJob, fast: Kernel): RangeFound {
  const { planes, width, height, chromaLines } = job
  const [Y] = planes
  const cw = (width + 1) >> 1
  const half = chromaLines < height ? 1 : 0
  const [kr, kb] = weightsOf(job)
  const { luma: within, floor, ceiling, furthest } = bounds([kr, kb], unitOf(Y))
  const ends = [Math.ceil(within[0]), Math.floor(within[1])] as const
  const inside = [...ends, Math.floor(floor) + 1, Math.ceil(ceiling) - 1, Math.ceil(furthest * 16)] as const
  const found = new Int32Array(4)
  const [y, u, v, out] = fast.hold([...planes], found.byteLength)
  fast.run.range(Y.BYTES_PER_ELEMENT, y!, u!, v!, width, height, half, ...inside, kr, kb, out!)
  fast.take(out!, found)
  const [lowest, highest, luma, gamut] = found as unknown as [number, number, number, number]
  return { samples: width * height, sites: cw * height, lowest, highest, luma, gamut }
}
