import { canonical } from '../canonical'
import { diffSplit, type Patch } from './patch'
import { ordered, type Marker, type Region, type Split } from './region'

/**
 * What two people changed to different ends: what is theirs stands, and what was mine is offered; null where I had
 * taken it away.
 */
export type Clash =
  | { readonly of: 'region'; readonly id: string; readonly mine: Region | null }
  | { readonly of: 'marker'; readonly id: string; readonly mine: Marker | null }

/** A split with the changes of both in it. */
interface Merged {
  readonly split: Split
  readonly clashes: readonly Clash[]
}

const sameText = (a: unknown, b: unknown) => canonical(a) === canonical(b)
const byId = <T extends { readonly id: string }>(list: readonly T[]) => new Map(list.map((x) => [x.id, x]))

/** What others changed of a split, without what came to them from here. */
export function foreignPatch(base: Split, theirs: Split, sent: Split | null): Patch {
  const patch = diffSplit(base, theirs)
  if (!sent) return patch
  const own = byId<{ id: string }>([...sent.regions, ...sent.markers, ...(sent.accepted ?? [])])
  const others = <T extends { readonly id: string }>(list: readonly T[]) =>
    list.filter((x) => !sameText(own.get(x.id), x))
  return {
    regions: others(patch.regions),
    markers: others(patch.markers),
    ...(patch.accepted ? { accepted: others(patch.accepted) } : {}),
    removed: patch.removed.filter((id) => own.has(id)),
  }
}

type Values = Readonly<Record<string, unknown>>

/** Values changed by one of two, field by field; where both changed one, theirs, and in `mine` mine. */
function mergeFields(base: Values, mine: Values, theirs: Values) {
  const [out, own]: Record<string, unknown>[] = [{}, {}]
  let clash = false
  for (const key of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
    const [b, m, t] = [base[key], mine[key], theirs[key]]
    const taken = sameText(b, t) ? m : t
    const both = !sameText(b, m) && !sameText(b, t) && !sameText(m, t)
    clash ||= both
    if (taken !== undefined) out![key] = taken
    const kept = both ? m : taken
    if (kept !== undefined) own![key] = kept
  }
  return { theirs: out!, mine: own!, clash }
}

/** A region that both changed; what was looked at, and which one it was before, is nothing to choose between. */
function mergeRegion(base: Region | undefined, mine: Region, theirs: Region) {
  const parts = ({ id: _id, metadata: _papers, looked, from, ...own }: Region) => ({ own, rest: { looked, from } })
  const [b, m, t] = [base && parts(base), parts(mine), parts(theirs)]
  const own = mergeFields(b?.own ?? {}, m.own, t.own)
  const papers = mergeFields(base?.metadata ?? {}, mine.metadata, theirs.metadata)
  const rest = mergeFields(b?.rest ?? {}, m.rest, t.rest).theirs
  const whole = (fields: Values, metadata: Values) => ({ id: theirs.id, ...fields, metadata, ...rest }) as Region
  const [a, o] = [whole(own.theirs, papers.theirs), whole(own.mine, papers.mine)]
  // ends that cross lie in no region
  const crossed = a.out <= a.in || o.out <= o.in
  const ends = ({ in: from, out }: Region) => ({ in: from, out })
  return crossed
    ? { theirs: { ...a, ...ends(theirs) }, mine: { ...o, ...ends(mine) }, clash: true }
    : { theirs: a, mine: o, clash: own.clash || papers.clash }
}

function mergeMarker(base: Marker | undefined, mine: Marker, theirs: Marker) {
  const merged = mergeFields({ ...base }, { ...mine }, { ...theirs })
  return { ...merged, theirs: merged.theirs as unknown as Marker, mine: merged.mine as unknown as Marker }
}

type Both<T> = (
  base: T | undefined,
  mine: T,
  theirs: T,
) => { readonly theirs: T; readonly mine: T; readonly clash: boolean }

/** One list with what others changed and took away of it. */
function mergeList<T extends { readonly id: string }>(
  [base, mine, changed]: readonly [readonly T[], readonly T[], readonly T[]],
  removed: readonly string[],
  both: Both<T>,
): { readonly list: readonly T[]; readonly clashes: readonly { readonly id: string; readonly mine: T | null }[] } {
  const gone = removed.filter((id) => base.some((x) => x.id === id))
  if (changed.length + gone.length === 0) return { list: mine, clashes: [] }
  const [was, own] = [byId(base), byId(mine)]
  const out = new Map(own)
  const clashes: { id: string; mine: T | null }[] = []
  for (const theirs of changed) {
    const { id } = theirs
    const m = own.get(id)
    const untouched = sameText(was.get(id), m)
    const merged = m && !untouched ? both(was.get(id), m, theirs) : null
    out.set(id, merged?.theirs ?? theirs)
    if (merged?.clash) clashes.push({ id, mine: merged.mine })
    else if (!m && !untouched) clashes.push({ id, mine: null })
  }
  for (const id of gone) {
    const m = own.get(id)
    out.delete(id)
    if (m && !sameText(was.get(id), m)) clashes.push({ id, mine: m })
  }
  return { list: [...out.values()], clashes }
}

/**
 * A split that I made of `base`, with what others changed of it meanwhile. Different things, and different fields of
 * one, are both kept; what both changed to different ends is theirs, and is told.
 */
export function mergeSplits(base: Split, mine: Split, theirs: Patch): Merged {
  const regions = mergeList([base.regions, mine.regions, theirs.regions], theirs.removed, mergeRegion)
  const markers = mergeList([base.markers, mine.markers, theirs.markers], theirs.removed, mergeMarker)
  const accepted = mergeList(
    [base.accepted ?? [], mine.accepted ?? [], theirs.accepted ?? []],
    theirs.removed,
    (_base, _mine, a) => ({ theirs: a, mine: a, clash: false }),
  )
  // one marker a frame
  const places = new Map(theirs.markers.map((m) => [m.at, m]))
  const second = markers.list.filter((m) => places.has(m.at) && places.get(m.at)!.id !== m.id)
  const doubled = second.filter((m) => m.name !== places.get(m.at)!.name)
  const left = second.length ? markers.list.filter((m) => !second.includes(m)) : markers.list
  return {
    split: {
      regions: regions.list === mine.regions ? mine.regions : ordered(regions.list),
      markers: left === mine.markers ? left : [...left].sort((a, b) => a.at - b.at),
      ...(accepted.list.length ? { accepted: accepted.list } : {}),
    },
    clashes: [
      ...regions.clashes.map((c) => ({ of: 'region' as const, ...c })),
      ...markers.clashes.map((c) => ({ of: 'marker' as const, ...c })),
      ...doubled.map((m) => ({ of: 'marker' as const, id: m.id, mine: m })),
    ],
  }
}

/** A split in which a clash goes the other way: what was mine stands. */
export function takeMine(split: Split, { of, id, mine }: Clash): Split {
  if (of === 'region') {
    const rest = split.regions.filter((r) => r.id !== id)
    return { ...split, regions: mine ? ordered([...rest, mine]) : rest }
  }
  const rest = split.markers.filter((m) => m.id !== id && m.at !== mine?.at)
  return { ...split, markers: mine ? [...rest, mine].sort((a, b) => a.at - b.at) : rest }
}

/** What stands in the place of a clash now; null where nothing does. */
export function standing(split: Split, { of, id, mine }: Clash): Region | Marker | null {
  if (of === 'region') return split.regions.find((r) => r.id === id) ?? null
  return split.markers.find((m) => m.id === id || m.at === mine?.at) ?? null
}

/** Clashes that are left: those in which what stands is not what was mine. */
export function unsettled(split: Split, clashes: readonly Clash[]): readonly Clash[] {
  const bare = (x: Region | Marker | null) => x && { ...x, looked: null, from: null }
  return clashes.filter((c) => !sameText(bare(standing(split, c)), bare(c.mine)))
}
