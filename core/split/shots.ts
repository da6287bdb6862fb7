import { lastAtOrBefore } from '../time/order'
import type { Frames } from '../time/rate'
import type { Shot } from '../timeline/model'
import type { Marker } from './region'

/** The shot in which a frame lies. */
export function shotAt(shots: readonly Shot[], at: Frames): Shot | null {
  const i = lastAtOrBefore(
    shots.map((s) => s.in),
    at,
  )
  const shot = shots[i]
  return shot && at < shot.out ? shot : null
}

/** What stands for shots where there is sound alone: the stretches from marker to marker, by their names. */
export function stretchesOf(markers: readonly Marker[], length: Frames): Shot[] {
  const names = new Map(markers.filter((m) => m.at < length).map((m) => [m.at, m.name]))
  const edges = [...new Set([0, ...names.keys(), length])].sort((a, b) => a - b)
  return edges.slice(0, -1).map((at, i) => ({ in: at, out: edges[i + 1]!, name: names.get(at) ?? '', reel: '' }))
}
