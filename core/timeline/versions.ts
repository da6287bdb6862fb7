import { pairShots, type ShotPair } from './pairing'
import { topEvents, type Timeline, type TimelineEvent } from './model'

export type ChangeKind = 'kept' | 'moved' | 'trimmed' | 'new' | 'gone'

/**
 * One shot of a newer version against the older one. `in` and `out` are frames of the newer timeline, of the older for
 * `gone`.
 */
export interface Change {
  readonly kind: ChangeKind
  readonly name: string
  readonly in: number
  readonly out: number
  readonly was: { readonly in: number; readonly out: number } | null
}

/**
 * What changed between two versions: every shot of the newer kept, moved, trimmed or new, and those of the older that
 * are gone.
 */
export function compareVersions(older: Timeline, newer: Timeline): Change[] {
  const [before, shots] = [topEvents(older), topEvents(newer)]
  const pairs = new Map(pairShots(before, shots).map((p) => [p.now, p]))
  const used = new Set([...pairs.values()].map((p) => p.old))
  const name = (e: TimelineEvent) => e.name || e.reel || 'black'
  const kindOf = (e: TimelineEvent, pair: ShotPair | undefined): ChangeKind => {
    if (!pair) return 'new'
    if (!pair.alike) return 'trimmed'
    return before[pair.old]!.record.in === e.record.in ? 'kept' : 'moved'
  }
  return [
    ...shots.map((e, i): Change => {
      const pair = pairs.get(i)
      return { kind: kindOf(e, pair), name: name(e), ...e.record, was: pair ? before[pair.old]!.record : null }
    }),
    ...before.flatMap((e, i): Change[] =>
      used.has(i) ? [] : [{ kind: 'gone', name: name(e), ...e.record, was: e.record }],
    ),
  ]
}
