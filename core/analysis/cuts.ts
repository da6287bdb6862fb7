import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import type { Meter } from './meter'
import { colourColumns, colourRows, columns, rows, type Trace } from './trace'

/**
 * A change of shot. `at` is the first frame of the new shot, for a dissolve or fade the middle of it; `from` and `to`
 * are the frames over which it goes on ([from, to); a cut has none between).
 */
export interface FoundCut {
  readonly at: Frames
  readonly kind: 'cut' | 'dissolve' | 'fade'
  readonly from: Frames
  readonly to: Frames
}

/** A picture as compared: half the luma grid, for speed, and colour. */
interface Look {
  readonly luma: Float32Array
  readonly colour: Uint8Array
  readonly mean: number
  readonly spread: number
  /** Share of cells that are nearly white. */ readonly white: number
}

const w = columns / 2
const h = rows / 2
const cells = w * h

function lookOf(t: Trace): Look {
  const luma = new Float32Array(cells)
  let sum = 0
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const at = y * 2 * columns + x * 2
      const v = (t.luma[at]! + t.luma[at + 1]! + t.luma[at + columns]! + t.luma[at + columns + 1]!) / 64
      luma[y * w + x] = v
      sum += v
    }
  }
  const mean = sum / cells
  let square = 0
  let white = 0
  for (let i = 0; i < cells; i++) {
    square += (luma[i]! - mean) ** 2
    if (luma[i]! > 180) white++
  }
  return { luma, colour: t.colour, mean, spread: Math.sqrt(square / cells), white: white / cells }
}

/** Mean difference of two pictures, cell against cell. */
function plainDifference(a: Look, b: Look): number {
  let sum = 0
  for (let i = 0; i < cells; i++) sum += Math.abs(a.luma[i]! - b.luma[i]!)
  return sum / cells
}

function colourDifference(a: Look, b: Look): number {
  let sum = 0
  const n = colourColumns * colourRows * 2
  for (let i = 0; i < n; i++) sum += Math.max(0, Math.abs(a.colour[i]! - b.colour[i]!) - 1)
  return (sum / n) * 2
}

/**
 * Mean difference where `b` is `a` moved by (dx, dy) cells, over what both show; each cell may also have moved to a
 * neighbour.
 */
function shiftedDifference(a: Look, b: Look, dx: number, dy: number, tolerant: boolean): number {
  let sum = 0
  let n = 0
  for (let y = Math.max(0, -dy); y < Math.min(h, h - dy); y++) {
    for (let x = Math.max(0, -dx); x < Math.min(w, w - dx); x++) {
      const v = a.luma[y * w + x]!
      const at = (y + dy) * w + x + dx
      let d = Math.abs(v - b.luma[at]!)
      if (tolerant && d > 1) {
        const [left, right] = [x + dx > 0, x + dx < w - 1]
        if (left) d = Math.min(d, Math.abs(v - b.luma[at - 1]!))
        if (right) d = Math.min(d, Math.abs(v - b.luma[at + 1]!))
        if (y + dy > 0) d = Math.min(d, Math.abs(v - b.luma[at - w]!))
        if (y + dy < h - 1) d = Math.min(d, Math.abs(v - b.luma[at + w]!))
      }
      sum += d
      n++
    }
  }
  return sum / Math.max(1, n)
}

/** The camera's move from one picture to the next, in cells. */
interface Move {
  readonly x: number
  readonly y: number
}
const still: Move = { x: 0, y: 0 }

/**
 * How different two pictures are beyond what a camera that moves by up to `reach` cells and things that move explain.
 */
function compare(a: Look, b: Look, reach = 10): { d: number; move: Move } {
  const plain = plainDifference(a, b)
  const colour = colourDifference(a, b)
  if (plain < 1.5) return { d: plain + colour, move: still }
  let best = shiftedDifference(a, b, 0, 0, true)
  let move = still
  let least = plain
  for (let y = -Math.min(3, reach); y <= Math.min(3, reach); y++) {
    for (let x = -reach; x <= reach; x++) {
      if (!x && !y) continue
      const d = shiftedDifference(a, b, x, y, false)
      if (d >= least) continue
      least = d
      move = { x, y }
    }
  }
  // what moves out of view on one side comes in on the other: a far move must explain more
  if (move !== still)
    best = Math.min(
      best,
      shiftedDifference(a, b, move.x, move.y, true) * (1 + (Math.abs(move.x) + Math.abs(move.y)) / 24),
    )
  return { d: best + colour * Math.min(1, best / Math.max(1, plain) + 0.25), move }
}
const difference = (a: Look, b: Look) => compare(a, b).d

/** Correlation of two pictures' luma: 1 is the same picture at another level or contrast. */
function likeness(a: Look, b: Look): number {
  let sum = 0
  for (let i = 0; i < cells; i++) sum += (a.luma[i]! - a.mean) * (b.luma[i]! - b.mean)
  return sum / Math.max(1e-6, cells * a.spread * b.spread)
}

/**
 * Where between `a` and `b` a picture lies (0 … 1), and how far off the straight way it is, as a share of their
 * distance.
 */
function between(a: Look, b: Look, p: Look): { t: number; off: number } {
  let along = 0
  let length = 0
  for (let i = 0; i < cells; i++) {
    const d = b.luma[i]! - a.luma[i]!
    along += (p.luma[i]! - a.luma[i]!) * d
    length += d * d
  }
  const t = along / Math.max(1e-6, length)
  let off = 0
  for (let i = 0; i < cells; i++) off += Math.abs(p.luma[i]! - a.luma[i]! - t * (b.luma[i]! - a.luma[i]!))
  return { t, off: off / cells / Math.max(0.5, plainDifference(a, b)) }
}

const longest = 60
/** Correlation over which two pictures show the same scene. */
const sameScene = 0.62

/**
 * Finds changes of shot: hard cuts against what moves and flickers around them, dissolves and fades by frames that lie
 * on the straight way between two pictures. Works on traces alone.
 */
export function cutFinder(): Meter<Trace, FoundCut[]> {
  const looks: Look[] = []
  return {
    feed: (t) => void looks.push(lookOf(t)),
    result() {
      const hard = hardCuts(looks)
      return [
        ...hard.map((at): FoundCut => ({ at, kind: 'cut', from: at, to: at })),
        ...gradualChanges(looks, hard),
      ].sort((a, b) => a.at - b.at)
    },
  }
}

function hardCuts(all: readonly Look[]): Frames[] {
  // light that comes and goes is left out; the frames at its sides are neighbours
  const lit = flashFrames(all)
  const frames = all.map((_, n) => n).filter((n) => !lit.has(n))
  const looks = frames.map((n) => all[n]!)
  const first = looks.map((l, n) => (n ? compare(looks[n - 1]!, l) : { d: 0, move: still }))
  // a camera does not jump: a move that its neighbours do not make explains nothing
  const jump = (m: Move, near: Move | undefined) =>
    Math.max(Math.abs(m.x - (near?.x ?? 0)), Math.abs(m.y - (near?.y ?? 0)))
  const score = Float32Array.from(first, (c, n) =>
    c.move !== still && jump(c.move, first[n - 1]?.move) > 3 && jump(c.move, first[n + 1]?.move) > 3
      ? compare(looks[n - 1]!, looks[n]!, 2).d
      : c.d,
  )
  const usual = (n: number) => {
    const around: number[] = []
    for (let k = Math.max(1, n - 9); k <= Math.min(looks.length - 1, n + 9); k++) if (k !== n) around.push(score[k]!)
    around.sort((a, b) => a - b)
    return around[Math.floor(around.length * 0.68)] ?? 0
  }
  const out: Frames[] = []
  for (let n = 1; n < looks.length; n++) {
    const s = score[n]!
    // a dark scene shows small differences: what counts is how they stand out
    const light = Math.max(looks[n - 1]!.spread, looks[n]!.spread)
    const floor = 0.75 + Math.min(3.75, light * 0.14)
    if (s < floor || s < floor * 0.6 + usual(n) * 2.6) continue
    // the same picture at another level is light, not another shot
    if (likeness(looks[n - 1]!, looks[n]!) > 0.965 && Math.abs(looks[n]!.mean - looks[n - 1]!.mean) > 10) continue
    if (isGradual(looks, score, n)) continue
    // where light hides the cut itself, its first frame is the first after the old shot
    out.push(
      frames[n - 1]! + 1 < frames[n]! && likeness(all[frames[n]! - 1]!, looks[n]!) < 0.5
        ? frames[n]!
        : frames[n - 1]! + 1 < frames[n]!
          ? frames[n - 1]! + 1
          : frames[n]!,
    )
  }
  return out
}

/**
 * Frames of light that comes and goes within one shot: the same picture but brighter, or all light, for at most five
 * frames.
 */
function flashFrames(looks: readonly Look[]): Set<Frames> {
  const out = new Set<Frames>()
  for (let n = 1; n < looks.length; n++) {
    const [before, lit] = [looks[n - 1]!, looks[n]!]
    if (lit.mean < before.mean + 12 || out.has(n - 1)) continue
    if (!(
      (lit.spread < 14 && lit.mean > 140) ||
      (lit.white > 0.7 && before.white < 0.35) ||
      likeness(before, lit) > 0.75
    ))
      continue
    for (let k = 1; k <= 5 && n + k < looks.length; k++) {
      const after = looks[n + k]!
      if (after.mean > (before.mean + lit.mean) / 2) continue
      const sameShot =
        difference(before, after) < 1.4 + Math.min(2.5, before.spread * 0.05) ||
        (likeness(before, after) > 0.93 && Math.abs(before.mean - after.mean) < 25)
      if (sameShot) for (let i = n; i < n + k; i++) out.add(i)
      break
    }
  }
  return out
}

/**
 * Whether the change at `n` is one step of several on the straight way from one picture to another: part of a dissolve,
 * not a cut.
 */
function isGradual(looks: readonly Look[], score: Float32Array, n: Frames): boolean {
  if (Math.max(score[n - 1] ?? 0, score[n + 1] ?? 0) < score[n]! * 0.3) return false
  for (const [back, on] of [
    [2, 2],
    [3, 3],
    [5, 5],
    [1, 5],
    [5, 1],
    [1, 3],
    [3, 1],
    [7, 7],
  ] as const) {
    const [a, b] = [looks[n - 1 - back], looks[n + on]]
    if (!a || !b || plainDifference(a, b) < 2) continue
    const ways: number[] = []
    let straight = true
    for (let i = n - back; i < n + on && straight; i++) {
      const { t, off } = between(a, b, looks[i]!)
      straight = off < 0.26
      ways.push(t)
    }
    if (!straight) continue
    const steps = [0, ...ways, 1].map((t, i, all) => (i ? t - all[i - 1]! : 0)).slice(1)
    if (Math.max(...steps) < 0.62 && Math.min(...steps) > -0.12) return true
  }
  return false
}

/** Dissolves and fades between hard cuts. */
function gradualChanges(looks: readonly Look[], hard: readonly Frames[]): FoundCut[] {
  const edges = [0, ...hard, looks.length]
  const out: FoundCut[] = []
  for (let k = 0; k + 1 < edges.length; k++) {
    const shot = { in: edges[k]!, out: edges[k + 1]! }
    if (shot.out - shot.in < 6) continue
    let last = -1
    for (const run of straightRuns(looks, shot)) {
      const found = measureChange(looks, shot, run)
      if (!found || found.from < last) continue
      const before = out.at(-1)
      // no two changes follow each other without a frame between: a camera that moves made two of one
      if (before && before.kind === found.kind && found.from <= last + 1 && last >= 0)
        out[out.length - 1] = { ...found, from: before.from, at: Math.round((before.from + found.to) / 2) }
      else out.push(found)
      last = found.to
    }
  }
  return out
}

/** Stretches whose frames lie half-way between frames before and after them that differ much. */
function straightRuns(looks: readonly Look[], shot: FrameRange): FrameRange[] {
  const marked = new Uint8Array(shot.out - shot.in)
  for (const k of [2, 4, 8, 14]) {
    for (let n = shot.in + k; n + k < shot.out; n++) {
      const [a, p, b] = [looks[n - k]!, looks[n]!, looks[n + k]!]
      const apart = plainDifference(a, b)
      const light = Math.max(a.spread, b.spread)
      if (apart < 1.6 + Math.min(3, light * 0.07)) continue
      const { t, off } = between(a, b, p)
      if (off > 0.21 || t < 0.3 || t > 0.7) continue
      // a camera or a thing that moves explains itself
      if (difference(a, b) < apart * 0.5) continue
      marked[n - shot.in] = 1
    }
  }
  const runs: { in: number; out: number }[] = []
  for (let i = 0; i < marked.length; i++) {
    if (!marked[i]) continue
    const last = runs.at(-1)
    if (last && shot.in + i - last.out <= 3) last.out = shot.in + i + 1
    else runs.push({ in: shot.in + i, out: shot.in + i + 1 })
  }
  return runs
}

/** What is left of a picture when small movement is not to count: block means of luma, and colour. */
function coarse(l: Look): Float32Array {
  const [bw, bh] = [4, 3]
  const across = w / bw
  const out = new Float32Array(across * (h / bh) + l.colour.length)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) out[Math.floor(y / bh) * across + Math.floor(x / bw)]! += l.luma[y * w + x]! / (bw * bh)
  const n = out.length - l.colour.length
  for (let i = 0; i < l.colour.length; i++) out[n + i] = l.colour[i]! * 0.6
  return out
}

/** The place of a coarse picture on the way from one to another, and how far off it is. */
function onTheWay(a: Float32Array, b: Float32Array, p: Float32Array): { t: number; off: number } {
  let along = 0
  let length = 0
  for (let i = 0; i < a.length; i++) {
    const d = b[i]! - a[i]!
    along += (p[i]! - a[i]!) * d
    length += d * d
  }
  const t = along / Math.max(1e-6, length)
  let off = 0
  for (let i = 0; i < a.length; i++) off += (p[i]! - a[i]! - t * (b[i]! - a[i]!)) ** 2
  return { t, off: Math.sqrt(off / Math.max(1e-6, length)) }
}

/**
 * Fits a straight way with rest before and after it to a run: where it begins and ends, and whether it is one at all.
 */
function measureChange(looks: readonly Look[], shot: FrameRange, run: FrameRange): FoundCut | null {
  const middle = (run.in + run.out - 1) / 2
  let best: { from: number; to: number; worth: number } | null = null
  for (const reach of [3, 4, 6, 8, 11, 15, 20, 26, 34]) {
    if (reach * 2 + 2 < run.out - run.in) continue
    const from = Math.max(shot.in, Math.floor(middle - reach))
    const to = Math.min(shot.out - 1, Math.ceil(middle + reach))
    if (to - from < 3) continue
    const [a, b] = [coarse(looks[from]!), coarse(looks[to]!)]
    const ts: number[] = []
    let off = 0
    let n = 0
    for (let i = from; i <= to; i++) {
      const x = onTheWay(a, b, coarse(looks[i]!))
      ts.push(x.t)
      if (x.t > 0.1 && x.t < 0.9) {
        off += x.off
        n++
      }
    }
    if (n < 2) continue
    off /= n
    // every begin and end is tried: the way that fits the places best
    let fit = { from: 0, to: 0, error: Infinity }
    for (let i = 0; i < ts.length - 2; i++) {
      for (let k = i + 2; k <= ts.length; k++) {
        let error = 0
        for (let j = 0; j < ts.length; j++) error += (ts[j]! - Math.max(0, Math.min(1, (j - i + 0.5) / (k - i)))) ** 2
        if (error < fit.error) fit = { from: i, to: k, error }
      }
    }
    const error = Math.sqrt(fit.error / ts.length)
    if (off > 0.5 || error > 0.13) continue
    // rest must be seen on both sides, unless the shot ends there
    const rests = (fit.from >= 1 || from === shot.in) && (fit.to <= ts.length - 1 || to === shot.out - 1)
    const worth = error + off * 0.15 + (rests ? 0 : 0.25) + reach * 0.0012
    if (!best || worth < best.worth) best = { from: from + fit.from, to: from + fit.to, worth }
  }
  if (!best || best.to - best.from < 2 || best.to - best.from > longest * 1.2) return null
  const { from, to } = best
  const [a, b] = [looks[Math.max(shot.in, from - 1)]!, looks[Math.min(shot.out - 1, to)]!]
  const apart = difference(a, b)
  if (apart < 2 + Math.min(3, Math.max(a.spread, b.spread) * 0.09)) return null
  // the same place with things moved about in it is the same shot
  const faded = (l: Look, full: Look) => l.spread < full.spread * 0.3 && (l.mean < 40 || l.mean > 190)
  const fade = faded(a, b) || faded(b, a)
  if (!fade && likeness(a, b) > sameScene) return null
  // a dissolve changes the picture all over; a thing that crosses it does not
  let changed = 0
  for (let i = 0; i < cells; i++) if (Math.abs(a.luma[i]! - b.luma[i]!) > Math.max(0.8, apart * 0.2)) changed++
  if (changed < cells * 0.45) return null
  // what comes back was no change of shot
  for (let i = Math.max(shot.in, from - 7); i < from; i++)
    for (let k = to; k < Math.min(shot.out, to + 7); k += 2)
      if (difference(looks[i]!, looks[k]!) < apart * 0.3) return null
  return { at: Math.round((from + to) / 2), kind: fade ? 'fade' : 'dissolve', from, to }
}
