import { canonical } from '../canonical'
import { ordered, type Acceptance, type Marker, type Region, type Split } from './region'

/** What changed of a split; regions and markers by id. */
export interface Patch {
  readonly regions: readonly Region[]
  readonly markers: readonly Marker[]
  readonly accepted?: readonly Acceptance[]
  /** Ids of regions, markers and accepted faults that are gone. */
  readonly removed: readonly string[]
}

function changed<T extends { readonly id: string }>(before: readonly T[], after: readonly T[]): T[] {
  const old = new Map(before.map((x) => [x.id, x]))
  return after.filter((x) => old.get(x.id) !== x && canonical(old.get(x.id)) !== canonical(x))
}

/** What makes `after` of `before`. */
export function diffSplit(before: Split, after: Split): Patch {
  const all = (s: Split) => [...s.regions, ...s.markers, ...(s.accepted ?? [])].map((x) => x.id)
  const kept = new Set(all(after))
  const accepted = changed(before.accepted ?? [], after.accepted ?? [])
  return {
    regions: changed(before.regions, after.regions),
    markers: changed(before.markers, after.markers),
    ...(accepted.length ? { accepted } : {}),
    removed: all(before).filter((id) => !kept.has(id)),
  }
}

/** A split with a patch applied; what did not change stays the same object. Applied twice, it changes nothing more. */
export function applyPatch(split: Split, patch: Patch): Split {
  const gone = new Set(patch.removed)
  const lay = <T extends { readonly id: string }>(list: readonly T[], fresh: readonly T[]): readonly T[] => {
    if (fresh.length === 0 && !list.some((x) => gone.has(x.id))) return list
    const by = new Map(fresh.map((x) => [x.id, x]))
    const kept = list.filter((x) => !gone.has(x.id)).map((x) => by.get(x.id) ?? x)
    const there = new Set(list.map((x) => x.id))
    return [...kept, ...fresh.filter((x) => !there.has(x.id))]
  }
  const accepted = lay(split.accepted ?? [], patch.accepted ?? [])
  return {
    regions: ordered(lay(split.regions, patch.regions)),
    markers: lay(split.markers, patch.markers),
    ...(accepted.length ? { accepted } : {}),
  }
}
