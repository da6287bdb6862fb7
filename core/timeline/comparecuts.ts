import type { FoundCut } from '../analysis/cuts'
import type { Frames } from '../time/rate'
import { cutsOf, shotsOf, type Shot, type Timeline } from './model'

/** Cuts given by a list held against cuts found in the pictures. */
export interface CutComparison {
  /** Given cuts with a found one on their frame, and all of them. */
  readonly agree: number
  readonly given: number
  /** Found hard cuts that no list gives. */
  readonly extra: readonly Frames[]
  /**
   * Frames by which nearly all given cuts lie beside found ones: positive when the list is early. Null when they agree,
   * or in no one way.
   */
  readonly shift: Frames | null
}

const farthest = 12

/** Whether a timeline has cuts of its own: a list was given. */
export function hasCuts(t: Pick<Timeline, 'events'>): boolean {
  return t.events.filter((e) => e.kind === 'video').length > 1
}

/** Compares the cuts of a timeline's list with those found. A list off by the same frames everywhere is shifted. */
export function compareCuts(t: Timeline, found: readonly FoundCut[]): CutComparison {
  const given = cutsOf(shotsOf(t)).slice(1, -1)
  const hard = new Set(found.filter((c) => c.kind === 'cut').map((c) => c.at))
  const near = (n: Frames) => found.some((c) => c.kind !== 'cut' && n >= c.from - 1 && n <= c.to + 1)
  const plain = given.filter((n) => !near(n))
  const matches = (by: Frames) => plain.filter((n) => hard.has(n + by)).length
  const agree = given.filter((n) => hard.has(n) || near(n)).length
  let best = 0
  for (let by = 1; by <= farthest; by++) for (const s of [by, -by]) if (matches(s) > matches(best)) best = s
  const shift =
    best !== 0 && plain.length >= 3 && matches(best) >= plain.length * 0.7 && matches(0) < matches(best) * 0.4
      ? best
      : null
  const known = new Set(given)
  return { agree, given: given.length, extra: [...hard].filter((n) => !known.has(n)).sort((a, b) => a - b), shift }
}

/** The shots of a timeline: those of its list, else those between the cuts found in its pictures. */
export function shotsWithFound(t: Timeline, found: readonly FoundCut[] | undefined): Shot[] {
  const own = shotsOf(t)
  if (hasCuts(t) || !found?.length || own.length !== 1) return own
  const edges = [0, ...found.map((c) => c.at).filter((n) => n > 0 && n < t.length), t.length]
  return edges.slice(0, -1).map((from, i) => ({ in: from, out: edges[i + 1]!, name: '', reel: own[0]!.reel }))
}
