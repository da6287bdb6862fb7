import type { LumaWeights } from '../media/colour'
import { columnsOf, combed, type Columns } from '../kernel/combing'
import { rangeOf } from '../kernel/range'
import type { Picture } from '../picture/picture'

/** Cells of the luma grid on which pictures are compared, and samples taken in each, across and down. */
export const columns = 64
export const rows = 36
const taken = 4
/** Cells of the colour grid. */
export const colourColumns = 16
export const colourRows = 9

/**
 * What is kept of a picture for decisions that need its neighbours: the same trace comes from the same picture,
 * wherever a pass was begun, so that a file may be gone through in pieces.
 */
export interface Trace {
  /** Sum of the 16 samples of each cell, as 8-bit codes. */
  readonly luma: Uint16Array
  /** Mean Cb, then mean Cr of each colour cell, as 8-bit codes. */
  readonly colour: Uint8Array
  /** Samples over code 24 among those taken. */
  readonly bright: number
  /** Lines and columns that are black at the top, bottom, left, right. */
  readonly bars: readonly [number, number, number, number]
  /** Shares outside the limits of EBU R 103, in millionths: of samples by luma, of sites of chroma by R′, G′ or B′. */
  readonly outside: { readonly luma: number; readonly gamut: number }
  /** Lowest and highest luma, in thousandths of the nominal range. */
  readonly lowest: number
  readonly highest: number
  /**
   * Samples that stand out from those above and below, in millionths: of the picture as it is, with its top field
   * between the bottom one of the picture before, and the other way; null where none is known to be before it.
   */
  readonly combed: { readonly own: number; readonly topAfter: number; readonly bottomAfter: number } | null
  /** The picture could not be decoded: this is the trace of the one that stands in for it. */
  readonly damaged?: true
}

/** Bytes of a packed trace. */
export const traceSize = columns * rows * 2 + colourColumns * colourRows * 2 + 4 + 8 + 8 + 4 + 12

/** A code is black when it is not over this, for bars. */
const darkest = 22

const kept = new Map<number, Int32Array>()

/** Where samples are taken along a line of a width: the middles of `count` equal parts. */
function placesOf(count: number, width: number): Int32Array {
  const known = kept.get(width)
  if (known) return known
  const made = Int32Array.from({ length: count }, (_, i) => Math.floor((i + 0.5) * (width / count)))
  if (kept.size > 16) kept.clear()
  kept.set(width, made)
  return made
}

/** Takes traces of pictures one after the other; of levels by the weights of their luma, see {@link rangeOf}. */
export interface Tracer {
  /** Of a picture, or of one that stands in for another that is `damaged`. */
  take(p: Picture, damaged?: boolean): Trace
  /** The next picture does not follow the last. */
  pause(): void
}

export function tracer(weights?: LumaWeights): Tracer {
  let before: Columns | null = null
  return {
    take(p, damaged = false) {
      const own = damaged ? null : columnsOf(p.planes[0], p.width, p.height)
      const follows = own && before?.width === own.width && before.height === own.height
      const found = follows ? combedOf(own, before!) : null
      before = own
      return { ...traceOf(p, { damaged, weights }), combed: found }
    },
    pause: () => void (before = null),
  }
}

function combedOf(own: Columns, before: Columns): Trace['combed'] {
  const { samples, ...counts } = combed(own, before)
  if (samples === 0) return null
  const share = (n: number) => Math.round((n * 1e6) / samples)
  return { own: share(counts.own), topAfter: share(counts.topAfter), bottomAfter: share(counts.bottomAfter) }
}

interface TraceAsked {
  readonly damaged?: boolean
  readonly weights?: LumaWeights | undefined
}

/** The trace of a picture by itself, or of one that stands in for another that is damaged. */
export function traceOf(p: Picture, { damaged = false, weights }: TraceAsked = {}): Trace {
  const shift = p.bitDepth - 8
  const Y = p.planes[0]
  const luma = new Uint16Array(columns * rows)
  const across = placesOf(columns * taken, p.width)
  const stepY = p.height / (rows * taken)
  let bright = 0
  for (let j = 0; j < rows * taken; j++) {
    const line = Math.floor((j + 0.5) * stepY) * p.width
    const row = (j >> 2) * columns
    for (let i = 0; i < columns * taken; i++) {
      const v = Y[line + across[i]!]! >> shift
      if (v > 24) bright++
      luma[row + (i >> 2)]! += v
    }
  }
  const cw = (p.width + 1) >> 1
  const ch = p.chroma === '4:2:0' ? (p.height + 1) >> 1 : p.height
  const colour = new Uint8Array(colourColumns * colourRows * 2)
  for (const plane of [0, 1] as const) {
    const C = p.planes[plane + 1]!
    for (let y = 0; y < colourRows; y++) {
      for (let x = 0; x < colourColumns; x++) {
        let sum = 0
        for (let j = 0; j < 4; j++)
          for (let i = 0; i < 4; i++)
            sum +=
              C[
                Math.floor(((y * 4 + j + 0.5) * ch) / (colourRows * 4)) * cw +
                  Math.floor(((x * 4 + i + 0.5) * cw) / (colourColumns * 4))
              ]! >> shift
        colour[plane * colourColumns * colourRows + y * colourColumns + x] = sum >> 4
      }
    }
  }
  return {
    luma,
    colour,
    bright,
    bars: barsOf(p),
    ...levelsOf(p, ch, weights),
    combed: null,
    ...(damaged ? { damaged } : {}),
  }
}

/** Lines and columns at the edges on which nothing but black was found. */
function barsOf(p: Picture): [number, number, number, number] {
  const Y = p.planes[0]
  const top = darkest << (p.bitDepth - 8)
  const across = Math.max(1, p.width >> 7)
  const down = Math.max(1, p.height >> 6)
  const darkLine = (y: number) => {
    for (let x = across >> 1; x < p.width; x += across) if (Y[y * p.width + x]! > top) return false
    return true
  }
  const darkColumn = (x: number) => {
    for (let y = down >> 1; y < p.height; y += down) if (Y[y * p.width + x]! > top) return false
    return true
  }
  const count = (n: number, dark: (i: number) => boolean) => {
    let k = 0
    while (k < n && dark(k)) k++
    return k
  }
  return [
    count(p.height, darkLine),
    count(p.height, (i) => darkLine(p.height - 1 - i)),
    count(p.width, darkColumn),
    count(p.width, (i) => darkColumn(p.width - 1 - i)),
  ]
}

/** How much of a picture lies outside the range of EBU R 103. */
function levelsOf(
  p: Picture,
  chromaLines: number,
  weights?: LumaWeights,
): Pick<Trace, 'outside' | 'lowest' | 'highest'> {
  const { samples, sites, lowest, highest, luma, gamut } = rangeOf({
    ...p,
    chromaLines,
    ...(weights ? { weights } : {}),
  })
  const unit = 1 << (p.bitDepth - 8)
  const share = (n: number, of: number) => Math.ceil((n * 1e6) / of)
  const level = (code: number) => Math.round((code - 16 * unit) * (1 / (219 * unit)) * 1000)
  return {
    outside: { luma: share(luma, samples), gamut: share(gamut, sites) },
    lowest: level(lowest),
    highest: level(highest),
  }
}

/** The largest change of a cell's mean luma, in 8-bit steps. */
export function largestChange(a: Trace, b: Trace): number {
  let largest = 0
  for (let i = 0; i < a.luma.length; i++) {
    const change = Math.abs(a.luma[i]! - b.luma[i]!)
    if (change > largest) largest = change
  }
  return largest / (taken * taken)
}

/** The largest change of a cell's mean Cb or Cr, in 8-bit steps. */
export const largestColourChange = (a: Trace, b: Trace): number =>
  a.colour.reduce((most, c, i) => Math.max(most, Math.abs(c - b.colour[i]!)), 0)

/** Set in the count of bright samples, which is never so large. */
const damagedBit = 0x8000_0000
/** Stands where nothing was combed. */
const unknown = 0xffff_ffff

export function packTrace(t: Trace): Uint8Array {
  const out = new Uint8Array(traceSize)
  const view = new DataView(out.buffer)
  let at = 0
  for (const v of t.luma) {
    view.setUint16(at, v, true)
    at += 2
  }
  out.set(t.colour, at)
  at += t.colour.length
  view.setUint32(at, t.bright + (t.damaged ? damagedBit : 0), true)
  t.bars.forEach((v, i) => view.setUint16(at + 4 + i * 2, v, true))
  view.setUint32(at + 12, t.outside.luma, true)
  view.setUint32(at + 16, t.outside.gamut, true)
  view.setInt16(at + 20, t.lowest, true)
  view.setInt16(at + 22, t.highest, true)
  const { own, topAfter, bottomAfter } = t.combed ?? { own: unknown, topAfter: 0, bottomAfter: 0 }
  ;[own, topAfter, bottomAfter].forEach((v, i) => view.setUint32(at + 24 + i * 4, v, true))
  return out
}

export function unpackTrace(bytes: Uint8Array): Trace {
  const view = new DataView(bytes.buffer, bytes.byteOffset, traceSize)
  const luma = new Uint16Array(columns * rows)
  for (let i = 0; i < luma.length; i++) luma[i] = view.getUint16(i * 2, true)
  let at = luma.length * 2
  // a copy of its own, whatever kind of bytes came: the next trace is read into the same ones
  const colour = Uint8Array.from(bytes.subarray(at, at + colourColumns * colourRows * 2))
  at += colour.length
  const bright = view.getUint32(at, true)
  const u16 = (i: number) => view.getUint16(at + 4 + i * 2, true)
  const [own, topAfter, bottomAfter] = [24, 28, 32].map((k) => view.getUint32(at + k, true)) as [number, number, number]
  return {
    luma,
    colour,
    bright: bright % damagedBit,
    ...(bright >= damagedBit ? { damaged: true } : {}),
    bars: [u16(0), u16(1), u16(2), u16(3)],
    outside: { luma: view.getUint32(at + 12, true), gamut: view.getUint32(at + 16, true) },
    lowest: view.getInt16(at + 20, true),
    highest: view.getInt16(at + 22, true),
    combed: own === unknown ? null : { own, topAfter, bottomAfter },
  }
}
