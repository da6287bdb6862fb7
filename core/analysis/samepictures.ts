import { lastAtOrBefore } from '../time/order'
import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { printDifference, printKeys, type Prints } from './prints'

// Where the pictures of one cut are in another, found by looking at them.

/** The pictures of a cut, and where its shots begin: frame 0 and each cut. */
export interface PrintedReel {
  readonly prints: Prints
  readonly cuts: readonly Frames[]
}

/** A stretch of one shot, and where its pictures were seen first. */
export interface Piece extends FrameRange {
  /** What it shows: 0 the older cut, other numbers what is in the newer alone; null for flat fields, as black is. */
  readonly reel: number | null
  /** Its first frame, counted in what it shows. */
  readonly from: Frames
  /** It stands still: where within its shot it begins is a guess. */
  readonly still?: true
  /** Other pictures of the older cut are as much like it, or it is not much like any. */
  readonly unsure?: true
}

/** The pieces of both cuts, in order; they cover each from its first frame to its last. */
export interface SamePictures {
  readonly older: readonly Piece[]
  readonly newer: readonly Piece[]
}

/**
 * Differences of prints: of the very same frame at most in good coding; the most that any coding makes; of pictures
 * that cannot be the same. Where most differ by more than is usual between codings, all is doubtful.
 */
const [exact, coarsest, farthest, usualMost] = [1, 3.5, 6, 2]
/** Frames that are looked up to tell which shots could be the same, how many of these are tried, by how many frames. */
const [asked, tried, looks] = [10, 6, 24]
/** Frames that differ in a row before they are looked for elsewhere. */
const shortestPart = 12
/** Stretches under one key that are looked at. */
const mostOfKey = 200

/** Frames spread evenly over a range, its first and last among them. */
function spread({ in: from, out }: FrameRange, count: number): Frames[] {
  const n = Math.min(count, out - from)
  return Array.from({ length: n }, (_, i) => from + Math.round((i * (out - from - 1)) / Math.max(1, n - 1)))
}

/** A place of the older cut that looks like a range: `by` frames earlier or later. */
interface Found {
  readonly stretch: FrameRange
  readonly by: Frames
  /** Mean difference of the frames looked at. */
  readonly cost: number
  readonly still: boolean
}

interface Place {
  readonly by: Frames
  readonly cost: number
  readonly inside: number
}

/** What of a reel has been seen, by how it looks. */
class Seen {
  private readonly stretches: FrameRange[] = []
  /** By key: the place of a stretch, and the first of its frames that are alike under the key. */
  private readonly byKey = new Map<number, number[]>()

  constructor(private readonly prints: Prints) {}

  add(stretch: FrameRange): void {
    const place = this.stretches.push(stretch) - 1
    let before: Int32Array | null = null
    for (let n = stretch.in; n < stretch.out; n++) {
      const keys = this.prints.flat[n] ? null : printKeys(this.prints, n)
      keys?.forEach((key, k) => {
        if (before?.[k] === key) return
        const list = this.byKey.get(key)
        if (list) list.push(place, n)
        else this.byKey.set(key, [place, n])
      })
      before = keys
    }
  }

  /** Stretches that some frames of a range look like, the most like first. */
  private alike(prints: Prints, range: FrameRange): FrameRange[] {
    const least = new Map<number, { sum: number; count: number }>()
    const own = spread(range, asked).filter((n) => !prints.flat[n])
    for (const n of own) {
      const best = new Map<number, number>()
      for (const key of printKeys(prints, n)) {
        const list = this.byKey.get(key) ?? []
        for (let i = 0; i < Math.min(list.length, mostOfKey * 2); i += 2) {
          const known = best.get(list[i]!) ?? farthest
          const d = printDifference(prints, n, this.prints, list[i + 1]!, 3)
          if (d < known) best.set(list[i]!, d)
        }
      }
      for (const [place, d] of best) {
        const { sum, count } = least.get(place) ?? { sum: 0, count: 0 }
        least.set(place, { sum: sum + d, count: count + 1 })
      }
    }
    // a frame that is like none of a stretch counts as far from it
    const far = ([, { sum, count }]: [number, { sum: number; count: number }]) => sum + (own.length - count) * farthest
    return [...least]
      .sort((a, b) => far(a) - far(b))
      .slice(0, tried)
      .map(([place]) => this.stretches[place]!)
  }

  /**
   * How like a stretch some frames are, so many frames earlier or later: their mean difference and how many lie in it;
   * null where they are not.
   */
  private at(prints: Prints, own: readonly Frames[], stretch: FrameRange, by: Frames, every: 1 | 3): Place | null {
    let [sum, inside] = [0, 0]
    for (const n of own) {
      if (n + by < stretch.in || n + by >= stretch.out) continue
      inside++
      sum += printDifference(prints, n, this.prints, n + by, every)
    }
    return inside && sum <= farthest * inside ? { by, cost: sum / inside, inside } : null
  }

  /** Where within a stretch a range is most like it; null where nowhere. */
  private within(prints: Prints, range: FrameRange, stretch: FrameRange): Found | null {
    const own = spread(range, looks)
    const few = own.filter((_, i) => i % 6 === 3 || own.length < 12)
    const least = Math.max(1, Math.ceil(Math.min(own.length, stretch.out - stretch.in) / 3))
    // a place that holds more of it is better, as long as all of it is like
    const value = (p: Place, of: readonly Frames[]) => p.cost + (farthest * (of.length - p.inside)) / of.length / 2
    const first: Place[] = []
    for (let by = stretch.in - (range.out - 1); by <= stretch.out - 1 - range.in; by++) {
      const p = this.at(prints, few, stretch, by, 3)
      if (p) first.push(p)
    }
    const [head, tail] = [stretch.in - range.in, stretch.out - range.out]
    const likely = first
      .sort((p, q) => value(p, few) - value(q, few))
      .filter((p, i) => i < 12 || p.by === head || p.by === tail)
    const places = likely.flatMap((p) => this.at(prints, own, stretch, p.by, 1) ?? []).filter((p) => p.inside >= least)
    if (places.length === 0) return null
    const best = places.reduce((a, b) => (value(b, own) < value(a, own) ? b : a))
    const alike = places.filter((p) => value(p, own) <= value(best, own) * 1.03 + 0.1)
    const aligned = alike.find((p) => p.by === head) ?? alike.find((p) => p.by === tail) ?? best
    return { stretch, by: aligned.by, cost: aligned.cost, still: alike.length > 1 && head !== tail }
  }

  /** The places that a range is most like, best first. */
  find(prints: Prints, range: FrameRange): readonly Found[] {
    return this.alike(prints, range)
      .flatMap((s) => this.within(prints, range, s) ?? [])
      .sort((a, b) => a.cost - b.cost)
  }

  difference(prints: Prints, n: Frames, of: Frames): number {
    return of < 0 || of >= this.prints.frames ? farthest : printDifference(prints, n, this.prints, of)
  }
}

const isFlat = ({ flat }: Prints, r: FrameRange) => {
  let count = 0
  for (let n = r.in; n < r.out; n++) count += flat[n]!
  return count >= (r.out - r.in) * 0.9
}

function shotsOf({ prints, cuts }: PrintedReel): FrameRange[] {
  const edges = [...cuts.filter((c) => c > 0 && c < prints.frames), prints.frames]
  return edges.map((out, i) => ({ in: i ? edges[i - 1]! : 0, out })).filter((r) => r.out > r.in)
}

/** What neighbouring frames differ by where nothing moves: a tenth of them differ less. */
function grainOf(prints: Prints): number {
  const steps = spread({ in: 0, out: Math.max(1, prints.frames - 1) }, 2000)
  const list = steps.filter((n) => n + 1 < prints.frames && !prints.flat[n] && !prints.flat[n + 1])
  const differences = list.map((n) => printDifference(prints, n, prints, n + 1)).sort((a, b) => a - b)
  return differences[Math.floor(differences.length / 10)] ?? 0
}

/** The older cut: pictures that it shows again are those of where they were first. */
function olderPieces(reel: PrintedReel, seen: Seen): Piece[] {
  const { prints } = reel
  const again = Math.max(0.6, grainOf(prints) * 1.2 + 0.1)
  return shotsOf(reel).map((r): Piece => {
    if (isFlat(prints, r)) return { ...r, reel: null, from: r.in }
    const [best] = seen.find(prints, r)
    const whole = best && r.in + best.by >= best.stretch.in && r.out + best.by <= best.stretch.out
    if (best && whole && best.cost <= again && !best.still) return { ...r, reel: 0, from: r.in + best.by }
    seen.add(r)
    return { ...r, reel: 0, from: r.in }
  })
}

/** How much a frame may differ and still be the same: what others do, and a little more; and whether that is much. */
function tolerance(costs: readonly number[]): { readonly limit: number; readonly unsure: boolean } {
  const sorted = [...costs].sort((a, b) => a - b)
  // of what is found at all a quarter is surely the same, if these are two cuts of one programme
  const usual = sorted[Math.floor(sorted.length / 4)] ?? 0
  return { limit: Math.min(coarsest, Math.max(exact, usual * 2.5 + 0.4)), unsure: usual > usualMost }
}

/** The newer cut, in terms of the older one. */
class Newer {
  private fresh = 0
  /** Where the shot before ends in the older cut: what goes on there is the likeliest of equals. */
  private next = -1

  constructor(
    private readonly prints: Prints,
    private readonly seen: Seen,
    private readonly limit: number,
    private readonly unsure: boolean,
    private readonly known: ReadonlyMap<Frames, readonly Found[]>,
  ) {}

  /** The place that a range is, and whether another is as likely. */
  private choose(r: FrameRange, whole: boolean): { readonly best: Found; readonly unsure: boolean } | null {
    const found = ((whole ? this.known.get(r.in) : undefined) ?? this.seen.find(this.prints, r)).filter(
      (f) => f.cost <= this.limit,
    )
    const [first, second] = found
    if (!first) return null
    const going = found.find((f) => f.stretch.in === this.next && f.cost <= first.cost * 1.15 + 0.1)
    const other = !going && second !== undefined && second.cost <= first.cost * 1.5 + 0.2
    return { best: going ?? first, unsure: this.unsure || other }
  }

  private unknown(r: FrameRange): Piece[] {
    return [{ ...r, reel: ++this.fresh, from: 0 }]
  }

  /** Frames of a range that are like the older ones beside them by an offset: from the first to the last. */
  private likeness(r: FrameRange, by: Frames): FrameRange | null {
    const like = (n: Frames) => this.seen.difference(this.prints, n, n + by) <= this.limit * 2
    let [from, out] = [r.in, r.out]
    while (from < out && !like(from)) from++
    while (out > from && !like(out - 1)) out--
    return from < out ? { in: from, out } : null
  }

  pieces(r: FrameRange, whole = true): readonly Piece[] {
    if (isFlat(this.prints, r)) return [{ ...r, reel: null, from: r.in }]
    const chosen = this.choose(r, whole)
    const like = chosen && this.likeness(r, chosen.best.by)
    if (!chosen || !like) return this.unknown(r)
    const { best, unsure } = chosen
    const piece = (p: FrameRange): Piece => ({
      ...{ ...p, reel: 0, from: p.in + best.by },
      ...(best.still ? { still: true as const } : {}),
      ...(unsure ? { unsure: true as const } : {}),
    })
    // a shot that was cut where no cut is seen goes on elsewhere
    const parts = (rest: FrameRange): readonly Piece[] | null => {
      if (rest.out - rest.in < shortestPart || rest.out - rest.in === r.out - r.in) return null
      const list = this.pieces(rest, false)
      return list.some((p) => p.reel === 0) ? list : null
    }
    const before = parts({ in: r.in, out: like.in })
    const after = parts({ in: like.out, out: r.out })
    const own = { in: before ? like.in : r.in, out: after ? like.out : r.out }
    if (!after) this.next = best.stretch.out
    return [...(before ?? []), piece(own), ...(after ?? [])]
  }
}

/** Older pieces cut where the newer cut takes them apart, so that each part can be followed by itself. */
function takenApart(older: readonly Piece[], newer: readonly Piece[]): Piece[] {
  const known = newer.filter((p) => p.reel === 0).sort((a, b) => a.from - b.from)
  const starts = known.map((p) => p.from)
  return older.flatMap((o) => {
    if (o.reel !== 0) return [o]
    const end = o.from + o.out - o.in
    const cuts: Frames[] = []
    let covered = -1
    for (let i = lastAtOrBefore(starts, o.from - 1) + 1; i < known.length && starts[i]! < end; i++) {
      const p = known[i]!
      if (covered >= o.from && p.from >= covered && p.from > o.from) cuts.push(p.from)
      covered = Math.max(covered, p.from + p.out - p.in)
    }
    const edges = [o.from, ...new Set(cuts), end]
    return edges.slice(1).map((to, i): Piece => {
      const from = edges[i]!
      return { ...o, in: o.in + from - o.from, out: o.in + to - o.from, from }
    })
  })
}

/**
 * Which pictures of a newer cut are which of an older one. Shots of both are held against each other by their prints;
 * how alike two must be follows from how alike most are, so that another coding, another grade or a burnt-in counter is
 * no other picture, and another take is none of the same.
 */
export function samePictures(older: PrintedReel, newer: PrintedReel): SamePictures {
  const seen = new Seen(older.prints)
  const was = olderPieces(older, seen)
  const shots = shotsOf(newer)
  const pictured = shots.filter((r) => !isFlat(newer.prints, r))
  const found = new Map(pictured.map((r) => [r.in, seen.find(newer.prints, r)]))
  const { limit, unsure } = tolerance([...found.values()].flatMap(([best]) => best?.cost ?? []))
  const finder = new Newer(newer.prints, seen, limit, unsure, found)
  const now = shots.flatMap((r) => finder.pieces(r))
  return { older: takenApart(was, now), newer: now }
}
