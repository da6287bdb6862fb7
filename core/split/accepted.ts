import { findingId, type Finding } from './audit/finding'
import type { Acceptance, Split } from './region'

/** A fault of a split that somebody accepted, as it is told with the files of its regions. */
export interface AcceptedFault {
  readonly text: string
  readonly reason: string
  readonly initials: string
}

/** Regions that one acceptance names at most, of more only the first; and letters of its fault. */
const [most, longest] = [100, 1000]

/** A finding accepted as it is: its fault in words, and the ends of its regions, which must stay as they are. */
export function acceptanceOf(f: Finding, split: Split, as: Pick<Acceptance, 'reason' | 'initials'>): Acceptance {
  const own = new Set(f.regions.slice(0, most))
  const ends = split.regions.filter((r) => own.has(r.id)).map((r) => ({ id: r.id, in: r.in, out: r.out }))
  return { id: findingId(f), ...as, text: f.text.slice(0, longest), ends }
}

/** Accepted faults by the regions they are of, while the ends of these are as they were when it was accepted. */
export function acceptedByRegion(split: Split): ReadonlyMap<string, readonly AcceptedFault[]> {
  const out = new Map<string, AcceptedFault[]>()
  if (!split.accepted?.length) return out
  const now = new Map(split.regions.map((r) => [r.id, r]))
  for (const { text, reason, initials, ends = [] } of split.accepted) {
    const stands = ends.every((e) => now.get(e.id)?.in === e.in && now.get(e.id)?.out === e.out)
    if (!text || !stands) continue
    for (const { id } of ends) out.set(id, [...(out.get(id) ?? []), { text, reason, initials }])
  }
  return out
}
