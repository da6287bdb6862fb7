import type { Frames } from '../time/rate'
import { blackPicture, type Picture } from '../picture/picture'
import type { FoundCut } from './cuts'

/** A reel of known cuts: pictures that can be drawn in any order, and what is true of them. */
export interface LabelledReel {
  readonly name: string
  readonly frames: Frames
  readonly truth: readonly FoundCut[]
  picture(n: Frames): Picture
}

const width = 256
const height = 144

/** Random numbers 0 … 1 of a seed and a place, the same everywhere. */
function noise(seed: number, x: number, y = 0): number {
  let h = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(x | 0, 0xc2b2ae35) ^ Math.imul(y | 0, 0x27d4eb2f)
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39)
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296
}

/** Smooth hills of a seed at a place, 0 … 1: two octaves. */
function hills(seed: number, x: number, y: number, size: number): number {
  const octave = (s: number, px: number, py: number) => {
    const [ix, iy] = [Math.floor(px), Math.floor(py)]
    const [fx, fy] = [px - ix, py - iy]
    const ease = (t: number) => t * t * (3 - 2 * t)
    const row = (j: number) => noise(s, ix, iy + j) + (noise(s, ix + 1, iy + j) - noise(s, ix, iy + j)) * ease(fx)
    return row(0) + (row(1) - row(0)) * ease(fy)
  }
  return octave(seed, x / size, y / size) * 0.65 + octave(seed + 1, (x * 2.7) / size, (y * 2.7) / size) * 0.35
}

const [canvasWidth, canvasHeight] = [700, 420]
const canvases = new Map<string, Float32Array>()
/** The hills of a scene, drawn once: larger than the picture, so that a camera can move over it. */
function canvasOf(seed: number, size: number): Float32Array {
  const key = `${seed}/${size}`
  const kept = canvases.get(key)
  if (kept) return kept
  const out = new Float32Array(canvasWidth * canvasHeight)
  for (let y = 0; y < canvasHeight; y++)
    for (let x = 0; x < canvasWidth; x++) out[y * canvasWidth + x] = hills(seed, x, y, size)
  if (canvases.size > 12) canvases.clear()
  canvases.set(key, out)
  return out
}
/** A place on a canvas without end: it turns back at its edges. */
function turned(v: number, size: number): number {
  const m = ((v % (2 * size)) + 2 * size) % (2 * size)
  return m < size ? m : 2 * size - 1 - m
}

/** How a shot looks and moves. */
interface Shot {
  readonly seed: number
  /** Codes of luma at the darkest and brightest. */
  readonly low: number
  readonly high: number
  readonly size: number
  /** Movement of the camera, samples a frame. */
  readonly pan: number
  readonly tilt: number
  /** Things that cross the picture. */
  readonly things: number
  readonly speed: number
  /** Noise, codes either way. */
  readonly grain: number
  readonly u: number
  readonly v: number
  /** Framing: where the camera stands in the same scene. */
  readonly offset: number
}
const shot = (seed: number, more: Partial<Shot> = {}): Shot => ({
  seed,
  low: 30 + noise(seed, 1) * 40,
  high: 130 + noise(seed, 2) * 100,
  size: 26 + noise(seed, 3) * 50,
  pan: 0.3,
  tilt: 0,
  things: 2,
  speed: 2,
  grain: 1,
  u: 110 + noise(seed, 4) * 40,
  v: 110 + noise(seed, 5) * 40,
  offset: 0,
  ...more,
})

/** Luma of a shot, k frames in. */
function draw(s: Shot, k: Frames, n: Frames): Float32Array {
  const out = new Float32Array(width * height)
  const things = Array.from({ length: s.things }, (_, i) => ({
    x:
      ((((noise(s.seed, 20 + i) * width + k * s.speed * (i % 2 ? 1 : -1) * (0.6 + noise(s.seed, 30 + i))) %
        (width + 60)) +
        width +
        60) %
        (width + 60)) -
      30,
    y: 20 + noise(s.seed, 40 + i) * (height - 60),
    r: 9 + noise(s.seed, 50 + i) * 14,
    l: s.low + noise(s.seed, 60 + i) * (s.high - s.low),
  }))
  const canvas = canvasOf(s.seed, s.size)
  const left = s.offset + k * s.pan
  const part = left - Math.floor(left)
  const across = Int32Array.from({ length: width + 1 }, (_, x) => turned(x + Math.floor(left), canvasWidth))
  for (let y = 0; y < height; y++) {
    const line = turned(y + Math.round(k * s.tilt), canvasHeight) * canvasWidth
    for (let x = 0; x < width; x++) {
      const [a, b] = [canvas[line + across[x]!]!, canvas[line + across[x + 1]!]!]
      let v = s.low + (s.high - s.low) * (a + (b - a) * part)
      for (const t of things) if ((x - t.x) ** 2 + (y - t.y) ** 2 < t.r * t.r) v = t.l
      out[y * width + x] = v + (noise(s.seed + 977 * n, x, y) - 0.5) * 2 * s.grain
    }
  }
  return out
}

interface Part {
  readonly shot: Shot
  readonly frames: Frames
  readonly dissolve?: Frames
  readonly flashes?: readonly { readonly at: Frames; readonly frames: Frames; readonly to: number }[]
}
const black: Shot = shot(1, { low: 16, high: 16, things: 0, grain: 0, u: 128, v: 128 })

/** Lays shots one after the other; `dissolve` is how long a shot takes over from the one before. */
function reel(name: string, parts: readonly Part[]): LabelledReel {
  const starts: Frames[] = []
  let at = 0
  for (const p of parts) {
    starts.push(at)
    at += p.frames
  }
  const truth = parts.flatMap((p, i): FoundCut[] => {
    if (i === 0) return []
    const from = starts[i]!
    if (!p.dissolve) return [{ at: from, kind: 'cut', from, to: from }]
    const fade = p.shot === black || parts[i - 1]!.shot === black
    return [{ at: from + Math.round(p.dissolve / 2), kind: fade ? 'fade' : 'dissolve', from, to: from + p.dissolve }]
  })
  return {
    name,
    frames: at,
    truth,
    picture(n) {
      let i = parts.length - 1
      while (starts[i]! > n) i--
      const p = parts[i]!
      const k = n - starts[i]!
      const luma = draw(p.shot, k, n)
      let [u, v] = [p.shot.u, p.shot.v]
      if (p.dissolve && k < p.dissolve && i > 0) {
        const before = parts[i - 1]!
        const old = draw(before.shot, n - starts[i - 1]!, n)
        const weight = (2 * k + 1) / (2 * p.dissolve)
        for (let x = 0; x < luma.length; x++) luma[x] = old[x]! * (1 - weight) + luma[x]! * weight
        u = before.shot.u * (1 - weight) + u * weight
        v = before.shot.v * (1 - weight) + v * weight
      }
      const flash = p.flashes?.find((f) => k >= f.at && k < f.at + f.frames)
      const out = blackPicture(width, height, '4:2:0', 8)
      for (let x = 0; x < luma.length; x++) {
        const l = flash ? luma[x]! + (flash.to - luma[x]!) * (0.75 - 0.2 * (k - flash.at)) : luma[x]!
        out.planes[0][x] = Math.max(16, Math.min(235, l))
      }
      out.planes[1].fill(u)
      out.planes[2].fill(v)
      return out
    },
  }
}

/** Shots of a draw, drawn by seed. */
type Draw = (seed: number, more?: Partial<Shot>) => Shot

const plainPart =
  (drawn: Draw) =>
  (seed: number, frames: Frames, more: Partial<Shot> = {}): Part => ({ shot: drawn(seed, more), frames })

/**
 * The labelled set that shows what the cut finder can do: hard material, each reel with a difficulty of its own.
 * Another `draw` has other shots.
 */
export function cutSet(draw = 0): LabelledReel[] {
  const drawn: Draw = (seed, more = {}) => shot(seed + draw * 7919, more)
  return [...hardCuts(drawn), ...noCuts(drawn), ...gradual(drawn)]
}

/** Reels of cuts from one frame to the next. */
function hardCuts(drawn: Draw): LabelledReel[] {
  const plain = plainPart(drawn)
  const lengths = [30, 22, 41, 18, 55, 25, 12, 34]
  const several = (seed: number, more: (i: number) => Partial<Shot> = () => ({})) =>
    lengths.map((frames, i) => plain(seed + i * 13, frames, more(i)))
  const singles: Part[] = []
  for (let i = 0; i < 10; i++) singles.push(plain(500 + i, 14 + i), plain(600 + i, 1 + (i % 3)))
  return [
    reel('plain cuts', several(100)),
    reel(
      'similar neighbouring shots',
      [0, 1, 2, 3, 4, 5, 6, 7].map((i) =>
        plain(211, 28, { offset: [0, 90, 20, 130, 50, 160, 10, 80][i]!, things: 1 + (i % 3) }),
      ),
    ),
    reel(
      'same place, another size',
      [0, 1, 2, 3, 4, 5].map((i) => plain(223, 30, { size: [40, 56, 40, 70, 44, 60][i]!, things: 1 })),
    ),
    reel(
      'dark scenes',
      several(300, () => ({ low: 17, high: 34, u: 126, v: 129, grain: 0.8 })),
    ),
    reel(
      'noise',
      several(350, () => ({ grain: 16 })),
    ),
    reel(
      'fast pans',
      several(400, (i) => ({ pan: [11, -14, 17, 9, -12, 20, 15, -10][i]!, things: 0 })),
    ),
    reel(
      'tilts and fast things',
      several(450, (i) => ({ tilt: [5, -6, 4, 7, -5, 6, 3, -4][i]!, things: 5, speed: 9 })),
    ),
    reel('single frames and pairs', singles),
    reel(
      'flashes',
      several(700).map((p, i) => ({
        ...p,
        flashes: [
          { at: 5, frames: 1, to: 235 },
          { at: 9, frames: 2 + (i % 2), to: 235 },
        ],
      })),
    ),
    reel(
      'white flashes in the dark',
      several(760, () => ({ low: 20, high: 60 })).map((p) => ({ ...p, flashes: [{ at: 6, frames: 2, to: 225 }] })),
    ),
  ]
}

/** Reels without a cut that look as if there were some. */
function noCuts(drawn: Draw): LabelledReel[] {
  const plain = plainPart(drawn)
  return [
    reel('a burst of flashes and no cut', [
      { ...plain(740, 100), flashes: Array.from({ length: 12 }, (_, i) => ({ at: 20 + i * 5, frames: 2, to: 235 })) },
    ]),
    reel('one long moving shot', [plain(800, 200, { pan: 3, tilt: 1, things: 6, speed: 6 })]),
    reel('a whip pan and no cut', [plain(810, 160, { pan: 24, things: 0, size: 40 })]),
    reel('grain and slow light', [plain(820, 160, { grain: 10, things: 3 })]),
  ]
}

/** Reels of dissolves and fades. */
function gradual(drawn: Draw): LabelledReel[] {
  const plain = plainPart(drawn)
  const dissolves = (seed: number, n: readonly number[], more: Partial<Shot> = {}): Part[] =>
    n.map((dissolve, i) => ({ shot: drawn(seed + i * 17, more), frames: 45 + dissolve, ...(i ? { dissolve } : {}) }))
  return [
    reel('dissolves', dissolves(900, [0, 12, 25, 8, 40, 16, 50])),
    reel('short dissolves', dissolves(930, [0, 4, 5, 6, 8, 5, 4])),
    reel('dissolves over movement', dissolves(960, [0, 20, 12, 30, 24], { pan: 2, things: 3, speed: 3 })),
    reel('dark dissolves', dissolves(990, [0, 20, 12, 30], { low: 18, high: 60, things: 1 })),
    reel('fades', [
      plain(1000, 50),
      { shot: black, frames: 25, dissolve: 15 },
      { ...plain(1010, 60), dissolve: 20 },
      { shot: black, frames: 18, dissolve: 10 },
      { ...plain(1020, 60), dissolve: 12 },
      { shot: black, frames: 40, dissolve: 25 },
    ]),
    reel('dissolves and cuts together', [
      plain(1100, 40),
      plain(1110, 30),
      { ...plain(1120, 60), dissolve: 16 },
      plain(1130, 20),
      plain(1140, 25),
      { ...plain(1150, 50), dissolve: 10 },
      plain(1160, 30),
    ]),
  ]
}

interface Score {
  hit: number
  missed: number
  wrong: number
}

/**
 * Holds what was found against the truth: a cut on its frame; a dissolve or fade when the two extents share more than
 * half.
 */
export function scoreCuts(truth: readonly FoundCut[], found: readonly FoundCut[]): { hard: Score; gradual: Score } {
  const score = (kinds: (c: FoundCut) => boolean, same: (a: FoundCut, b: FoundCut) => boolean): Score => {
    const left = found.filter(kinds)
    let hit = 0
    const wanted = truth.filter(kinds)
    for (const t of wanted) {
      const i = left.findIndex((f) => same(t, f))
      if (i < 0) continue
      left.splice(i, 1)
      hit++
    }
    return { hit, missed: wanted.length - hit, wrong: left.length }
  }
  const shared = (a: FoundCut, b: FoundCut) =>
    Math.max(0, Math.min(a.to, b.to) - Math.max(a.from, b.from)) /
    Math.max(1, Math.max(a.to, b.to) - Math.min(a.from, b.from))
  return {
    hard: score(
      (c) => c.kind === 'cut',
      (a, b) => a.at === b.at,
    ),
    gradual: score(
      (c) => c.kind !== 'cut',
      (a, b) => a.kind === b.kind && shared(a, b) > 0.5,
    ),
  }
}
