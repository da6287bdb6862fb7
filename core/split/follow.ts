import { lastWhere } from '../time/order'
import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { sourceKey } from '../timeline/link/names'
import { sourceFrame, topEvents, type Timeline, type TimelineEvent } from '../timeline/model'
import { pairShots, type ShotPair } from '../timeline/pairing'
import type { Marker, Region, Split } from './region'

/** Where a region of an older version lies in a newer one. */
export interface Followed {
  readonly region: Region
  /** Null where it could not follow. */
  readonly range: FrameRange | null
  /** Why a person should look at it, in words; none where its shots leave no doubt. Where it could not follow, why. */
  readonly doubts: readonly string[]
  readonly chapters: readonly { readonly at: Frames; readonly name: string }[]
}

/** What is doubtful about shots of a newer version by themselves, by their places. */
export interface ShotDoubts {
  /** Shots that stand still: where within them a frame is was guessed. */
  readonly still: ReadonlySet<number>
  /** Shots that are as much like another one of the older version, or not much like any. */
  readonly unsure: ReadonlySet<number>
}
const noDoubts: ShotDoubts = { still: new Set(), unsure: new Set() }

type Edge = 'in' | 'out'
const wordOf = { in: 'first', out: 'last' } as const

/** A place of a newer version, and what is doubtful about it. */
interface Place {
  readonly at: Frames
  readonly doubts: readonly string[]
}

/** The shots that a range touches, by their places; shots are in order and do not overlap. */
function shotsIn(shots: readonly TimelineEvent[], r: FrameRange): number[] {
  const out: number[] = []
  const first = lastWhere(shots.length, (i) => shots[i]!.record.out <= r.in) + 1
  for (let i = first; i < shots.length && shots[i]!.record.in < r.out; i++) out.push(i)
  return out
}

/** Follows places of one timeline into a newer version of it. */
class Follower {
  private readonly before: readonly TimelineEvent[]
  private readonly now: readonly TimelineEvent[]
  private readonly pairOf: ReadonlyMap<number, ShotPair>
  private readonly oldOf: ReadonlyMap<number, number>
  private readonly byKey = new Map<string, number[]>()

  constructor(
    older: Timeline,
    newer: Timeline,
    private readonly shotDoubts: ShotDoubts,
  ) {
    this.before = topEvents(older)
    this.now = topEvents(newer)
    const pairs = pairShots(this.before, this.now)
    this.pairOf = new Map(pairs.map((p) => [p.old, p]))
    this.oldOf = new Map(pairs.map((p) => [p.now, p.old]))
    this.now.forEach((e, i) => {
      if (!e.source) return
      const key = sourceKey(e)
      const places = this.byKey.get(key)
      if (places) places.push(i)
      else this.byKey.set(key, [i])
    })
  }

  /** New shots, other than one, that show a frame of a source. */
  private elsewhere(e: TimelineEvent, source: Frames, but: number): boolean {
    return (this.byKey.get(sourceKey(e)) ?? []).some((i) => {
      const s = this.now[i]!.source
      return i !== but && s !== null && source >= s.in && source < s.out
    })
  }

  /** A frame within an old shot, in the new one that it became. `k` counts from the old shot's first. */
  private frame({ old, now }: ShotPair, k: Frames): { readonly at: Frames; readonly there: boolean } {
    const [a, b] = [this.before[old]!, this.now[now]!]
    const length = b.record.out - b.record.in
    const normal = a.speed.num === a.speed.den && b.speed.num === b.speed.den
    const shift = a.source && b.source && normal ? sourceFrame(a.source, a.speed, 0) - b.source.in : 0
    const at = k + shift
    return { at: b.record.in + Math.max(0, Math.min(length - 1, at)), there: at >= 0 && at < length }
  }

  /** Whether something new stands right beyond an end, between shots that were neighbours: whose it is nobody knows. */
  private inserted(pair: ShotPair, edge: Edge): boolean {
    const [by, old] = [edge === 'in' ? -1 : 1, pair.old]
    const beyond = this.now[pair.now + by]
    return beyond !== undefined && !this.oldOf.has(pair.now + by) && this.pairOf.get(old + by)?.now !== pair.now + by
  }

  /** Where an end of a region is: in the shot it lies in, or at the next of its own that is left. */
  private end(r: FrameRange, shots: readonly number[], edge: Edge): Place {
    const own = edge === 'in' ? shots[0]! : shots.at(-1)!
    const left = edge === 'in' ? shots : [...shots].reverse()
    const pair = this.pairOf.get(left.find((i) => this.pairOf.has(i))!)!
    const [a, b] = [this.before[pair.old]!, this.now[pair.now]!]
    const word = wordOf[edge]
    const doubts: string[] = []
    if (pair.old !== own) doubts.push(`its ${word} shot is gone`)
    if (pair.doubtful) doubts.push(`its ${word} shot is there several times`)
    if (this.shotDoubts.unsure.has(pair.now)) doubts.push(`its ${word} shot is not surely the one it looks like`)
    const onCut = pair.old !== own || (edge === 'in' ? r.in <= a.record.in : r.out >= a.record.out)
    if (onCut) {
      if (this.inserted(pair, edge)) doubts.push(`something new stands ${edge === 'in' ? 'before' : 'after'} it`)
      const outer = edge === 'in' ? 0 : a.record.out - a.record.in - 1
      const gone = !this.frame(pair, outer).there
      if (gone && a.source && this.elsewhere(a, sourceFrame(a.source, a.speed, outer), pair.now))
        doubts.push(`its ${word} frame is in another shot now`)
      return { at: edge === 'in' ? b.record.in : b.record.out, doubts }
    }
    const f = this.frame(pair, (edge === 'in' ? r.in : r.out - 1) - a.record.in)
    if (!pair.alike && this.shotDoubts.still.has(pair.now))
      doubts.push(`its ${word} shot stands still: which of its frames are left is a guess`)
    if (!f.there) doubts.push(`its ${word} frame is gone`)
    else if (!pair.alike && (a.speed.num !== a.speed.den || b.speed.num !== b.speed.den))
      doubts.push('the speed of its shot has changed')
    return { at: edge === 'in' ? f.at : f.at + 1, doubts }
  }

  /** Whether what lies in the new range is what lay in the old one, and nothing else that was there before. */
  private within(range: FrameRange, shots: readonly number[]): string[] {
    const own = new Set(shots)
    const doubts: string[] = []
    const places = shots.flatMap((i) => this.pairOf.get(i)?.now ?? [])
    const inside = shotsIn(this.now, range)
    const there = new Set(inside)
    if (places.some((i) => !there.has(i))) doubts.push('some of its shots lie elsewhere')
    const foreign = inside.some((i) => this.oldOf.has(i) && !own.has(this.oldOf.get(i)!))
    if (foreign) doubts.push('shots from elsewhere lie within it')
    if (places.some((n, i) => i > 0 && n < places[i - 1]!)) doubts.push('its shots are in another order')
    return doubts
  }

  region(region: Region, markers: readonly Marker[]): Followed {
    const lost = (why: string) => ({ region, range: null, doubts: [why], chapters: [] })
    const shots = shotsIn(this.before, region)
    if (shots.length === 0) return lost('it lies on no shot of the list')
    if (!shots.some((i) => this.pairOf.has(i))) return lost('none of its shots is there any more')
    const [from, to] = [this.end(region, shots, 'in'), this.end(region, shots, 'out')]
    const range = { in: from.at, out: to.at }
    if (range.out <= range.in) return lost('its last shot comes before its first now')
    const chapters = markers.flatMap((m) => {
      const at = this.place(m.at)
      return at !== null && at >= range.in && at < range.out ? [{ at, name: m.name }] : []
    })
    const missing = markers.length - chapters.length
    const doubts = [...from.doubts, ...to.doubts, ...this.within(range, shots)]
    if (missing) doubts.push(`${missing === 1 ? 'a chapter' : `${missing} chapters`} could not follow`)
    return { region, range, doubts: [...new Set(doubts)], chapters }
  }

  /** Where a single frame is now; null when its shot or the frame itself is gone. */
  private place(at: Frames): Frames | null {
    const [shot] = shotsIn(this.before, { in: at, out: at + 1 })
    const pair = shot === undefined ? undefined : this.pairOf.get(shot)
    if (!pair) return null
    const f = this.frame(pair, at - this.before[shot!]!.record.in)
    return f.there ? f.at : null
  }
}

/**
 * Every region of an older version's split where its shots are in a newer version, in order, with its chapters. An end
 * on a cut follows the cut; one within a shot follows its frame.
 */
export function follow(older: Timeline, newer: Timeline, split: Split, shotDoubts = noDoubts): Followed[] {
  const follower = new Follower(older, newer, shotDoubts)
  return split.regions.map((r) =>
    follower.region(
      r,
      split.markers.filter((m) => m.at >= r.in && m.at < r.out),
    ),
  )
}
