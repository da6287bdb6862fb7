import type { Frames } from './rate'

/** A half-open range of frames, [in, out). */
export interface FrameRange {
  readonly in: Frames
  readonly out: Frames
}

export function overlaps(a: FrameRange, b: FrameRange): boolean {
  return a.in < b.out && b.in < a.out
}

/** The parts of `whole` that none of `ranges` covers, in order. */
export function uncovered(whole: FrameRange, ranges: readonly FrameRange[]): FrameRange[] {
  const gaps: FrameRange[] = []
  let at = whole.in
  for (const r of [...ranges].sort((a, b) => a.in - b.in)) {
    if (r.in > at) gaps.push({ in: at, out: Math.min(r.in, whole.out) })
    at = Math.max(at, r.out)
    if (at >= whole.out) break
  }
  if (at < whole.out) gaps.push({ in: at, out: whole.out })
  return gaps.filter((g) => g.out > g.in)
}

/** Cuts [0, length) into pieces of at most `size`, the last one shorter. */
export function pieces(range: FrameRange, size: Frames): FrameRange[] {
  const out: FrameRange[] = []
  for (let at = range.in; at < range.out; at += size) out.push({ in: at, out: Math.min(at + size, range.out) })
  return out
}

/** What two lists of ranges have in common, in order. Neither overlaps itself. */
export function common(a: readonly FrameRange[], b: readonly FrameRange[]): FrameRange[] {
  const out: FrameRange[] = []
  for (let i = 0, k = 0; i < a.length && k < b.length;) {
    const from = Math.max(a[i]!.in, b[k]!.in)
    const to = Math.min(a[i]!.out, b[k]!.out)
    if (to > from) out.push({ in: from, out: to })
    if (a[i]!.out < b[k]!.out) i++
    else k++
  }
  return out
}

/** Ranges of one unit in order, those that overlap or touch, within `gap` of it, as one. */
export function joined<R extends { readonly in: number; readonly out: number }>(list: readonly R[], gap = 0): R[] {
  const out: R[] = []
  for (const r of [...list].sort((a, b) => a.in - b.in)) {
    const last = out.at(-1)
    if (last && r.in - last.out <= gap) out[out.length - 1] = { ...last, out: Math.max(last.out, r.out) }
    else out.push(r)
  }
  return out
}
