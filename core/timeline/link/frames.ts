import type { Frames } from '../../time/rate'
import type { Timeline } from '../model'

// How much of a timeline is of what: what most of it is, is the timeline's own.

/** Beside each event: where its own clip is, and that of its transition's outgoing one. */
type Links<L> = readonly { readonly clip: L | null; readonly outgoing: L | null }[]

/** Frames of a timeline whose pictures or sound each source gives, in the order of events; `keyOf` names a source. */
export function framesGiven<L, K>(
  t: Pick<Timeline, 'events'>,
  links: Links<L>,
  kind: 'video' | 'audio',
  keyOf: (link: L) => K,
): Map<K, Frames> {
  const given = new Map<K, Frames>()
  const add = (link: L | null, frames: Frames) => {
    if (link) given.set(keyOf(link), (given.get(keyOf(link)) ?? 0) + frames)
  }
  t.events.forEach((e, i) => {
    if (e.kind !== kind) return
    add(links[i]!.clip, e.record.out - e.record.in)
    add(links[i]!.outgoing, e.transition?.frames ?? 0)
  })
  return given
}

/** What most of the frames are, the first of those as many; null where nothing is told of any. */
export function mostly<K, V>(given: ReadonlyMap<K, Frames>, of: (source: K) => V | null | undefined): V | null {
  const sums = new Map<V, Frames>()
  for (const [source, frames] of given) {
    const value = of(source)
    if (value !== null && value !== undefined) sums.set(value, (sums.get(value) ?? 0) + frames)
  }
  return [...sums].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null
}
