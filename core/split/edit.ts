import { canonical } from '../canonical'
import type { FrozenAssembly } from '../timeline/assembly/assembly'
import { essenceOf } from '../timeline/assembly/essence'
import { lastAtOrBefore } from '../time/order'
import type { Frames } from '../time/rate'
import type { KindOfRegion } from './kinds'
import type { NamedRange } from './makers/maker'
import { isLookedAt, ordered, type Acceptance, type Region, type Split } from './region'

/** Every edit takes a split and gives a new one; the frames it gets are kept within [0, length) of the timeline. */
type NewId = () => string

function withRegions(split: Split, regions: readonly Region[]): Split {
  return { ...split, regions: ordered(regions) }
}

function change(split: Split, id: string, to: (r: Region) => Region): Split {
  return withRegions(
    split,
    split.regions.map((r) => (r.id === id ? to(r) : r)),
  )
}

/** Adds a region for each range, with the metadata and the chapters that came with it. */
export function addRegions(
  split: Split,
  ranges: readonly NamedRange[],
  newId: NewId,
): { split: Split; added: Region[] } {
  const made = ranges.filter((r) => r.out > r.in)
  const added = made.map((r) => ({
    ...{ id: newId(), name: r.name, in: r.in, out: r.out, metadata: r.metadata ?? {} },
    ...(r.kind ? { kind: r.kind } : {}),
    ...(r.from ? { from: r.from } : {}),
  }))
  const chapters = made.flatMap((r) => r.chapters ?? [])
  const marked = chapters.reduce<Split>((s, c) => addMarker(s, c.at, c.name, newId), split)
  return { split: withRegions(marked, [...split.regions, ...added]), added }
}

export function renameRegion(split: Split, id: string, name: string): Split {
  return change(split, id, (r) => ({ ...r, name }))
}

/** Says what regions are, or that they are nothing in particular. */
export function setKind(split: Split, ids: readonly string[], kind: KindOfRegion | null): Split {
  const chosen = new Set(ids)
  return {
    ...split,
    regions: split.regions.map((r) => {
      if (!chosen.has(r.id)) return r
      const { kind: _was, ...plain } = r
      return kind ? { ...plain, kind } : plain
    }),
  }
}

export function setMetadata(split: Split, id: string, field: string, value: string): Split {
  return change(split, id, (r) => ({ ...r, metadata: { ...r.metadata, [field]: value } }))
}

export function removeRegions(split: Split, ids: readonly string[]): Split {
  const gone = new Set(ids)
  return { ...split, regions: split.regions.filter((r) => !gone.has(r.id)) }
}

/** Moves one edge; a region keeps at least one frame. */
export function moveEdge(split: Split, id: string, edge: 'in' | 'out', to: Frames, length: Frames): Split {
  return change(split, id, (r) =>
    edge === 'in'
      ? { ...r, in: Math.max(0, Math.min(to, r.out - 1)) }
      : { ...r, out: Math.min(length, Math.max(to, r.in + 1)) },
  )
}

/** Whole regions earlier or later, together: they hold as many frames as before, and none leaves the timeline. */
export function slip(split: Split, ids: readonly string[], by: Frames, length: Frames): Split {
  const chosen = new Set(ids)
  const own = split.regions.filter((r) => chosen.has(r.id))
  const room = by < 0 ? Math.min(...own.map((r) => r.in)) : length - Math.max(...own.map((r) => r.out))
  const step = Math.sign(by) * Math.max(0, Math.min(Math.abs(by), room))
  if (own.length === 0 || step === 0) return split
  return withRegions(
    split,
    split.regions.map((r) => (chosen.has(r.id) ? { ...r, in: r.in + step, out: r.out + step } : r)),
  )
}

/** Moves all edges that lie at a frame to another one, together; every region keeps at least one frame. */
export function rollEdges(split: Split, at: Frames, to: Frames, length: Frames): Split {
  const [begin, end] = [split.regions.filter((r) => r.in === at), split.regions.filter((r) => r.out === at)]
  const least = Math.max(0, ...end.map((r) => r.in + 1))
  const most = Math.min(begin.length ? length - 1 : length, ...begin.map((r) => r.out - 1))
  const there = Math.max(least, Math.min(most, to))
  if (there === at || begin.length + end.length === 0) return split
  return withRegions(
    split,
    split.regions.map((r) => (r.in === at ? { ...r, in: there } : r.out === at ? { ...r, out: there } : r)),
  )
}

/** Cuts a region in two at a frame inside it; the second part gets the name with a number. */
export function splitRegion(split: Split, id: string, at: Frames, newId: NewId): Split {
  const r = split.regions.find((x) => x.id === id)
  if (!r || at <= r.in || at >= r.out) return split
  const { from: _from, ...second } = r
  return withRegions(split, [
    ...split.regions.filter((x) => x !== r),
    { ...r, out: at },
    { ...second, id: newId(), in: at, name: r.name ? `${r.name} 2` : '' },
  ])
}

/** Joins a region with the one that begins next; the first one's name stays. */
export function joinWithNext(split: Split, id: string): Split {
  const list = ordered(split.regions)
  const i = list.findIndex((r) => r.id === id)
  const next = list[i + 1]
  if (i < 0 || !next) return split
  const joined = { ...list[i]!, out: Math.max(list[i]!.out, next.out) }
  return withRegions(split, [...list.filter((r) => r.id !== id && r !== next), joined])
}

/** The cut nearest to a frame within `reach` frames; null when there is none. */
export function nearestCut(cuts: readonly Frames[], at: Frames, reach: Frames): Frames | null {
  const i = lastAtOrBefore(cuts, at)
  let best: Frames | null = null
  for (const c of [cuts[i], cuts[i + 1]]) {
    if (c !== undefined && Math.abs(c - at) <= reach && (best === null || Math.abs(c - at) < Math.abs(best - at)))
      best = c
  }
  return best
}

/** Brings the edges of regions to the nearest cut within `reach` frames. */
export function tidyEdges(split: Split, ids: readonly string[], cuts: readonly Frames[], reach: Frames): Split {
  const chosen = new Set(ids)
  return withRegions(
    split,
    split.regions.map((r) => {
      if (!chosen.has(r.id)) return r
      const from = nearestCut(cuts, r.in, reach) ?? r.in
      const to = nearestCut(cuts, r.out, reach) ?? r.out
      return to > from ? { ...r, in: from, out: to } : r
    }),
  )
}

/** Notes that the ends of regions were looked at as they are, or that they were not after all. */
export function lookAt(split: Split, ids: readonly string[], right: boolean): Split {
  const chosen = new Set(ids)
  return {
    ...split,
    regions: split.regions.map((r) => {
      if (!chosen.has(r.id) || isLookedAt(r) === right) return r
      const { looked: _looked, ...plain } = r
      return right ? { ...plain, looked: { in: r.in, out: r.out } } : plain
    }),
  }
}

/** A split of a timeline that is linked anew: ends with other pictures than before were not looked at. */
export function looksKept(split: Split, before: FrozenAssembly, now: FrozenAssembly): Split {
  const shown = (a: FrozenAssembly, at: Frames) => canonical(essenceOf(a, { in: at - 1, out: at + 1 }, null))
  const isOther = (r: Region) => [r.in, r.out].some((at) => shown(before, at) !== shown(now, at))
  const others = split.regions.filter((r) => isLookedAt(r) && isOther(r)).map((r) => r.id)
  return others.length ? lookAt(split, others, false) : split
}

/** A split with what was looked at in another state of it, and what was not, where a region's ends are the same. */
export function withLooked(split: Split, from: Split): Split {
  const by = new Map(from.regions.map((r) => [r.id, r]))
  const same = split.regions.filter((r) => by.get(r.id)?.in === r.in && by.get(r.id)?.out === r.out)
  const ids = (right: boolean) => same.filter((r) => isLookedAt(by.get(r.id)!) === right).map((r) => r.id)
  return lookAt(lookAt(split, ids(true), true), ids(false), false)
}

/** Accepts faults as they are. */
export function accept(split: Split, list: readonly Acceptance[]): Split {
  const kept = withoutAcceptance(
    split,
    list.map((a) => a.id),
  )
  return { ...kept, accepted: [...(kept.accepted ?? []), ...list] }
}

/** Takes back that faults were accepted. */
export function withoutAcceptance(split: Split, ids: readonly string[]): Split {
  const own = new Set(ids)
  return { ...split, accepted: (split.accepted ?? []).filter((a) => !own.has(a.id)) }
}

export function addMarker(split: Split, at: Frames, name: string, newId: NewId): Split {
  return {
    ...split,
    markers: [...split.markers.filter((m) => m.at !== at), { id: newId(), at, name }].sort((a, b) => a.at - b.at),
  }
}

export function removeMarker(split: Split, id: string): Split {
  return { ...split, markers: split.markers.filter((m) => m.id !== id) }
}
