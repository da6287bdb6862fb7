import { glyphCell, glyphCoverage } from './glyphs'
import type { Picture } from './picture'

/** Where a line of burnt-in text stands. */
export interface BurnIn {
  readonly text: string
  /** Height of a character cell in lines. */
  readonly size: number
  /** `across`: over the middle, so that the picture is seen through it. */
  readonly place: 'top' | 'bottom' | 'across'
}

const sizeCache = new Map<number, { width: number; glyphs: Map<number, Uint8Array> }>()

/** Coverage 0…255 of one character at a cell height, kept for the next use. */
export function glyphAt(code: number, height: number): { width: number; coverage: Uint8Array } {
  let cached = sizeCache.get(height)
  if (!cached) {
    cached = { width: Math.round((glyphCell.width * height) / glyphCell.height), glyphs: new Map() }
    sizeCache.set(height, cached)
  }
  const { width } = cached
  let coverage = cached.glyphs.get(code)
  if (!coverage) {
    coverage = new Uint8Array(width * height)
    for (let y = 0; y < height; y++) {
      const sy = ((y + 0.5) * glyphCell.height) / height - 0.5
      const y0 = Math.max(0, Math.min(glyphCell.height - 2, Math.floor(sy)))
      const fy = Math.max(0, Math.min(1, sy - y0))
      for (let x = 0; x < width; x++) {
        const sx = ((x + 0.5) * glyphCell.width) / width - 0.5
        const x0 = Math.max(0, Math.min(glyphCell.width - 2, Math.floor(sx)))
        const fx = Math.max(0, Math.min(1, sx - x0))
        const top = glyphCoverage(code, x0, y0) * (1 - fx) + glyphCoverage(code, x0 + 1, y0) * fx
        const bottom = glyphCoverage(code, x0, y0 + 1) * (1 - fx) + glyphCoverage(code, x0 + 1, y0 + 1) * fx
        coverage[y * width + x] = Math.round((top * (1 - fy) + bottom * fy) * 17)
      }
    }
    cached.glyphs.set(code, coverage)
  }
  return { width, coverage }
}

/** Draws text into the luma plane at a position, white on whatever is there; chroma under it is drawn towards grey. */
export function drawText(p: Picture, text: string, left: number, top: number, height: number, white = 235): void {
  const [Y, U, V] = p.planes
  const level = white << (p.bitDepth - 8)
  const grey = 128 << (p.bitDepth - 8)
  const cw = (p.width + 1) >> 1
  const shift = p.chroma === '4:2:0' ? 1 : 0
  eachDot(p, text, left, top, height, (px, py, a) => {
    const i = py * p.width + px
    Y[i] = Y[i]! + Math.round(((level - Y[i]!) * a) / 255)
    const c = (py >> shift) * cw + (px >> 1)
    U[c] = U[c]! + Math.round(((grey - U[c]!) * a) / 255)
    V[c] = V[c]! + Math.round(((grey - V[c]!) * a) / 255)
  })
}

/** What a mark covers of what lies under it, of 255; its shadow lets it be seen on white. */
const veil = 110

/** Lays text over pictures so that they are seen through it: luma alone, with a shadow. */
function layText(p: Picture, text: string, left: number, top: number, height: number): void {
  const [Y] = p.planes
  const away = Math.max(1, height >> 5)
  for (const [by, code] of [
    [away, 16],
    [0, 235],
  ] as const) {
    const level = code << (p.bitDepth - 8)
    eachDot(p, text, left + by, top + by, height, (px, py, a) => {
      const i = py * p.width + px
      Y[i] = Y[i]! + Math.round(((level - Y[i]!) * a * veil) / 65025)
    })
  }
}

/** Tells of every dot of a line of text that lies in the picture, with how much of it is covered, 1 … 255. */
function eachDot(
  p: Picture,
  text: string,
  left: number,
  top: number,
  height: number,
  told: (px: number, py: number, covered: number) => void,
): void {
  let x0 = left
  for (const ch of text) {
    const { width, coverage } = glyphAt(ch.codePointAt(0)!, height)
    for (let y = 0; y < height; y++) {
      const py = top + y
      if (py < 0 || py >= p.height) continue
      for (let x = 0; x < width; x++) {
        const a = coverage[y * width + x]!
        const px = x0 + x
        if (a !== 0 && px >= 0 && px < p.width) told(px, py, a)
      }
    }
    x0 += width
  }
}

/** Fills a rectangle with one colour (8-bit codes), for the box behind burnt-in text. */
export function fillRect(
  p: Picture,
  left: number,
  top: number,
  width: number,
  height: number,
  [y, u, v]: readonly [number, number, number],
): void {
  const s = p.bitDepth - 8
  const cw = (p.width + 1) >> 1
  const shift = p.chroma === '4:2:0' ? 1 : 0
  const x1 = Math.min(p.width, left + width)
  const y1 = Math.min(p.height, top + height)
  const x0 = Math.max(0, left)
  for (let row = Math.max(0, top); row < y1; row++) {
    p.planes[0].fill(y << s, row * p.width + x0, row * p.width + x1)
    if (!shift || row % 2 === 0) {
      const c = (row >> shift) * cw
      p.planes[1].fill(u << s, c + (x0 >> 1), c + ((x1 + 1) >> 1))
      p.planes[2].fill(v << s, c + (x0 >> 1), c + ((x1 + 1) >> 1))
    }
  }
}

/** The height, in lines, under which text is not made smaller. */
const least = 10
const cellAt = (size: number) => Math.round((glyphCell.width * size) / glyphCell.height)

/** The size at which letters fit into a width, no larger than is wanted. */
function fittingSize(letters: number, wanted: number, width: number): number {
  let size = wanted
  while (size > least && (letters + 1) * cellAt(size) > width) size--
  return size
}

/** How many letters can be drawn into one line of a picture. */
export const mostLetters = (width: number) => Math.floor((width * 0.9) / cellAt(least)) - 1

/**
 * Draws burn-ins on a copy of the picture: centred, at top and bottom in a dark box inside the safe area of EBU R 95
 * (5 %), across the middle without one. Text that is too long is made smaller.
 */
export function burnIn(p: Picture, marks: readonly BurnIn[]): Picture {
  if (marks.length === 0) return p
  const out: Picture = { ...p, planes: [p.planes[0].slice(), p.planes[1].slice(), p.planes[2].slice()] }
  for (const m of marks) {
    const text = m.text.slice(0, Math.max(1, mostLetters(p.width)))
    const size = fittingSize(text.length, m.size, p.width * 0.9)
    const cell = cellAt(size)
    const width = (text.length + 1) * cell
    const left = ((p.width - width) >> 2) * 2
    if (m.place === 'across') {
      layText(out, text, left + (cell >> 1), (p.height - size) >> 1, size)
      continue
    }
    const margin = Math.round(p.height * 0.05)
    const top = m.place === 'top' ? margin : p.height - margin - size
    fillRect(out, left, top, width, size, [24, 128, 128])
    drawText(out, text, left + (cell >> 1), top, size)
  }
  return out
}
