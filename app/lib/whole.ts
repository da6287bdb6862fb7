import type { FrameRange } from '../../core/time/range'
import type { Frames } from '../../core/time/rate'
import type { Palette } from './strip'

/** Width of the column that holds the whole timeline, in pixels. */
export const wholeWidth = 14

export interface WholeContent {
  readonly length: Frames
  readonly regions: readonly (FrameRange & { readonly id: string })[]
  readonly selected: ReadonlySet<string>
  /** Loudness of every tenth of a second, LUFS; null until it is known. */
  readonly loudness: readonly (number | null)[] | null
  /** Faults and missing media, each with its colour by the palette. */
  readonly marks: readonly (FrameRange & { readonly colour: string })[]
  readonly playhead: Frames
  readonly window: FrameRange
}

/** Where a frame stands in the column, and which frame stands at a height of it. */
export const wholeY = (frame: Frames, length: Frames, height: number) => (frame / Math.max(1, length)) * height
export const wholeFrame = (y: number, length: Frames, height: number): Frames =>
  Math.max(0, Math.min(length - 1, Math.floor((y / Math.max(1, height)) * length)))

/** Draws the whole: faint loudness, regions at the right, faults at the left, what is in view, the playhead. */
export function drawWhole(g: CanvasRenderingContext2D, height: number, c: WholeContent, p: Palette): void {
  g.clearRect(0, 0, wholeWidth, height)
  if (c.length === 0) return
  const y = (frame: Frames) => wholeY(frame, c.length, height)
  const bar = (r: FrameRange, x: number, width: number, colour: string) => {
    g.fillStyle = colour
    // a gap between one and the next
    g.fillRect(x, y(r.in), width, Math.max(1.5, y(r.out) - y(r.in) - 1))
  }
  if (c.loudness) drawLoudness(g, height, c.loudness, p)
  for (const r of c.regions) if (!c.selected.has(r.id)) bar(r, 9, 3, p.quiet!)
  // one that is selected is seen also where others lie over it
  for (const r of c.regions) if (c.selected.has(r.id)) bar(r, 9, 3, p.crane!)
  for (const m of c.marks) bar(m, 0, 4, p[m.colour]!)
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
