import { overlaps } from '../time/range'
import { sourceKey } from './link'
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
  const left = new Map<string, TimelineEvent[]>()
  const key = (e: TimelineEvent) => (e.source ? sourceKey(e) : 'black')
  for (const e of topEvents(older)) left.set(key(e), [...(left.get(key(e)) ?? []), e])
  const alike = (a: TimelineEvent, b: TimelineEvent) =>
    a.source && b.source
      ? a.source.in === b.source.in &&
        a.source.out === b.source.out &&
        a.speed.num === b.speed.num &&
        a.speed.den === b.speed.den
      : a.source === b.source && a.record.out - a.record.in === b.record.out - b.record.in
  const shots = topEvents(newer)
  const found = new Map<TimelineEvent, { old: TimelineEvent; kind: ChangeKind }>()
  const pair = (test: (a: TimelineEvent, b: TimelineEvent) => boolean, kind: ChangeKind) => {
    for (const e of shots) {
      if (found.has(e)) continue
      const list = left.get(key(e))
      const i = list?.findIndex((o) => test(o, e)) ?? -1
      if (i >= 0) found.set(e, { old: list!.splice(i, 1)[0]!, kind })
    }
  }
  pair((o, e) => alike(o, e) && o.record.in === e.record.in, 'kept')
  pair(alike, 'moved')
  pair((o, e) => o.source !== null && e.source !== null && overlaps(o.source, e.source), 'trimmed')
  const name = (e: TimelineEvent) => e.name || e.reel || 'black'
  return [
    ...shots.map((e): Change => ({
      kind: found.get(e)?.kind ?? 'new',
      name: name(e),
      ...e.record,
      was: found.get(e)?.old.record ?? null,
    })),
    ...[...left.values()]
      .flat()
      .sort((a, b) => a.record.in - b.record.in)
      .map((e): Change => ({ kind: 'gone', name: name(e), ...e.record, was: e.record })),
  ]
}
