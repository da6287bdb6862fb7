import type { FrameRange } from '../../core/time/range'
import type { Frames } from '../../core/time/rate'
import type { Palette } from './strip'

/** Width of the column that holds the whole timeline, in pixels. */
export const wholeWidth = 14

export interface WholeContent {
  readonly length: Frames
  /** Regions by the lines of pixels they take; those that are selected besides, each by itself. */
  readonly regions: readonly Lines[]
  readonly selected: readonly FrameRange[]
  /** Loudness of every tenth of a second, LUFS; null until it is known. */
  readonly loudness: readonly (number | null)[] | null
  /** Faults and missing media by the lines they take, with their colour by the palette. */
  readonly marks: readonly (Lines & { readonly colour: string })[]
  readonly playhead: Frames
  readonly window: FrameRange
}

/** Where a frame stands in the column, and which frame stands at a height of it. */
export const wholeY = (frame: Frames, length: Frames, height: number) => (frame / Math.max(1, length)) * height
export const wholeFrame = (y: number, length: Frames, height: number): Frames =>
  Math.max(0, Math.min(length - 1, Math.floor((y / Math.max(1, height)) * length)))

/** Lines of pixels from the top that are next to each other. */
interface Lines {
  readonly top: number
  readonly height: number
}

/** What a range takes, in lines; a gap stays between one and the next. */
const linesOf = (r: FrameRange, length: Frames, height: number): Lines => {
  const top = wholeY(r.in, length, height)
  return { top, height: Math.max(1.5, wholeY(r.out, length, height) - top - 1) }
}

/** What ranges in order take together: those that leave no line between them are one. Thousands are some hundreds. */
export function takenLines(ranges: readonly FrameRange[], length: Frames, height: number): readonly Lines[] {
  const out: { top: number; height: number }[] = []
  for (const r of ranges) {
    const own = linesOf(r, length, height)
    const last = out.at(-1)
    if (last && own.top < last.top + last.height + 0.25)
      last.height = Math.max(last.height, own.top + own.height - last.top)
    else out.push({ ...own })
  }
  return out
}

/** Draws the whole: faint loudness, regions at the right, faults at the left, what is in view, the playhead. */
export function drawWhole(g: CanvasRenderingContext2D, height: number, c: WholeContent, p: Palette): void {
  g.clearRect(0, 0, wholeWidth, height)
  if (c.length === 0) return
  const y = (frame: Frames) => wholeY(frame, c.length, height)
  const bar = (r: FrameRange, x: number, width: number, colour: string) => {
    const lines = linesOf(r, c.length, height)
    g.fillStyle = colour
    g.fillRect(x, lines.top, width, lines.height)
  }
  if (c.loudness) drawLoudness(g, height, c.loudness, p)
  g.fillStyle = p.quiet!
  for (const r of c.regions) g.fillRect(9, r.top, 3, r.height)
  // one that is selected is seen also where others lie beside it
  for (const r of c.selected) bar(r, 9, 3, p.crane!)
  for (const m of c.marks) {
    g.fillStyle = p[m.colour]!
    g.fillRect(0, m.top, 4, m.height)
  }
  const [from, to] = [y(c.window.in), y(c.window.out)]
  g.fillStyle = p.text!
  g.globalAlpha = 0.14
  g.fillRect(0, from, wholeWidth, Math.max(4, to - from))
  g.globalAlpha = 0.7
  g.fillRect(0, from, wholeWidth, 1)
  g.fillRect(0, Math.max(from + 3, to - 1), wholeWidth, 1)
  g.globalAlpha = 1
  g.fillStyle = p.red!
  g.fillRect(0, Math.round(y(c.playhead)), wholeWidth, 1.5)
}

/** The loudest of what a line of pixels stands for; −50 LUFS is nothing, 0 LUFS the whole width. */
function drawLoudness(g: CanvasRenderingContext2D, height: number, list: readonly (number | null)[], p: Palette): void {
  g.fillStyle = p.crane!
  g.globalAlpha = 0.22
  const each = list.length / Math.max(1, height)
  for (let line = 0; line < height; line++) {
    let loudest = -50
    for (let i = Math.floor(line * each); i < Math.max(line * each + 1, (line + 1) * each) && i < list.length; i++)
      loudest = Math.max(loudest, list[i] ?? -50)
    const width = ((loudest + 50) / 50) * wholeWidth
    if (width > 0) g.fillRect((wholeWidth - width) / 2, line, width, 1)
  }
  g.globalAlpha = 1
}
