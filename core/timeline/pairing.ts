import { overlaps } from '../time/range'
import { sourceKey } from './link/names'
import type { TimelineEvent } from './model'

/** A shot of an older version and what it is in a newer one, by their places in both. */
export interface ShotPair {
  readonly old: number
  readonly now: number
  /** Whether both take the same frames of their source. */
  readonly alike: boolean
  /** Whether another shot would have answered as well, and no neighbour told which. */
  readonly doubtful: boolean
}

const keyOf = (e: TimelineEvent) => (e.source ? sourceKey(e) : 'black')
/** What is the same for shots that take the same frames. */
const tokenOf = (e: TimelineEvent) =>
  e.source
    ? `${keyOf(e)}|${e.source.in}|${e.source.out}|${e.speed.num}/${e.speed.den}`
    : `black|${e.record.out - e.record.in}`

function placesBy(list: readonly TimelineEvent[], text: (e: TimelineEvent) => string): Map<string, number[]> {
  const out = new Map<string, number[]>()
  list.forEach((e, i) => {
    const places = out.get(text(e))
    if (places) places.push(i)
    else out.set(text(e), [i])
  })
  return out
}

/** Pairs the shots of two versions; see {@link pairShots}. */
class Pairing {
  /** For each shot its counterpart, −1 while there is none. */
  readonly nowOf: Int32Array
  readonly oldOf: Int32Array
  readonly doubtful: Uint8Array

  constructor(
    private readonly older: readonly TimelineEvent[],
    private readonly newer: readonly TimelineEvent[],
  ) {
    this.nowOf = new Int32Array(older.length).fill(-1)
    this.oldOf = new Int32Array(newer.length).fill(-1)
    this.doubtful = new Uint8Array(newer.length)
  }

  private pair(old: number, now: number, doubtful = false) {
    this.nowOf[old] = now
    this.oldOf[now] = old
    this.doubtful[now] = doubtful ? 1 : 0
  }

  private free(old: number, now: number): boolean {
    return this.nowOf[old] === -1 && this.oldOf[now] === -1
  }

  /** Shots that are there once in both, and take the same frames. */
  once(): void {
    const now = placesBy(this.newer, tokenOf)
    for (const [token, places] of placesBy(this.older, tokenOf)) {
      const there = now.get(token)
      if (places.length === 1 && there?.length === 1 && !token.startsWith('black')) this.pair(places[0]!, there[0]!)
    }
  }

  /** Neighbours of what is paired, where they answer: on from each pair, and back from each. */
  neighbours(answers: (old: TimelineEvent, now: TimelineEvent) => boolean): void {
    const { older, newer, oldOf } = this
    const next = (old: number, now: number) => {
      if (old < 0 || now < 0 || old >= older.length || now >= newer.length) return
      if (this.free(old, now) && answers(older[old]!, newer[now]!)) this.pair(old, now)
    }
    for (let now = 0; now < newer.length; now++) if (oldOf[now]! >= 0) next(oldOf[now]! + 1, now + 1)
    for (let now = newer.length - 1; now >= 0; now--) if (oldOf[now]! >= 0) next(oldOf[now]! - 1, now - 1)
  }

  /** What is left of shots that take the same frames, in order. */
  inOrder(): void {
    const now = placesBy(this.newer, tokenOf)
    for (const [token, places] of placesBy(this.older, tokenOf)) {
      const left = places.filter((i) => this.nowOf[i] === -1)
      const there = (now.get(token) ?? []).filter((i) => this.oldOf[i] === -1)
      const sure = left.length === 1 && there.length === 1 && !token.startsWith('black')
      for (let k = 0; k < Math.min(left.length, there.length); k++) this.pair(left[k]!, there[k]!, !sure)
    }
  }

  /** What is left of shots that share frames of a source: the one that shares most, the nearest of equals. */
  sharing(): void {
    const now = placesBy(this.newer, keyOf)
    this.older.forEach((e, old) => {
      if (this.nowOf[old] !== -1 || !e.source) return
      let best = -1
      let most = 0
      let others = 0
      for (const k of now.get(keyOf(e)) ?? []) {
        const { source } = this.newer[k]!
        if (this.oldOf[k] !== -1 || !source) continue
        const shared = Math.min(source.out, e.source.out) - Math.max(source.in, e.source.in)
        if (shared <= 0) continue
        others++
        if (shared > most) [best, most] = [k, shared]
      }
      if (best >= 0) this.pair(old, best, others > 1)
    })
  }

  pairs(): ShotPair[] {
    return [...this.oldOf].flatMap((old, now) => {
      if (old < 0) return []
      const alike = tokenOf(this.older[old]!) === tokenOf(this.newer[now]!)
      return [{ old, now, alike, doubtful: this.doubtful[now] === 1 }]
    })
  }
}

/**
 * Which shot of an older version is which of a newer one. What takes the same frames and is there once is sure; from
 * there on neighbours tell of what is used several times, or was trimmed; what is left is paired in order, as doubtful
 * where others would do as well. In the order of the newer version; each shot is in one pair at most.
 */
export function pairShots(older: readonly TimelineEvent[], newer: readonly TimelineEvent[]): ShotPair[] {
  const p = new Pairing(older, newer)
  p.once()
  const same = (a: TimelineEvent, b: TimelineEvent) => tokenOf(a) === tokenOf(b)
  p.neighbours(same)
  p.neighbours(
    (a, b) => keyOf(a) === keyOf(b) && a.source !== null && b.source !== null && overlaps(a.source, b.source),
  )
  p.neighbours(same)
  p.inOrder()
  p.sharing()
  return p.pairs()
}
