import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import type { KindOfRegion } from './kinds'

/** A region of some timeline. */
export interface RegionRef {
  readonly timelineId: string
  readonly regionId: string
}

/** A named stretch of a timeline. Positions are frames from the timeline's start. */
export interface Region extends FrameRange {
  readonly id: string
  readonly name: string
  /** Programme metadata by field name, as far as it was typed. */
  readonly metadata: Readonly<Record<string, string>>
  /** What it is, as outlets ask for it. */
  readonly kind?: KindOfRegion
  /** The region of an older version that it is, where it was taken over from there. */
  readonly from?: RegionRef
  /** Where its ends were when a person looked at their pictures and found them right. */
  readonly looked?: FrameRange
}

/** A chapter marker. */
export interface Marker {
  readonly id: string
  readonly at: Frames
  readonly name: string
}

/** How a timeline is split: everything an edit can change and undo can bring back. */
export interface Split {
  readonly regions: readonly Region[]
  readonly markers: readonly Marker[]
  readonly accepted?: readonly Acceptance[]
}

/** A fault of the split that a person found right as it is; it counts as long as regions and frames are the same. */
export interface Acceptance {
  /** Of the finding, see `findingId`. */
  readonly id: string
  readonly reason: string
  readonly initials: string
  /** The fault in words, and the ends of its regions, as they were; absent where an earlier edition accepted it. */
  readonly text?: string
  readonly ends?: readonly (FrameRange & { readonly id: string })[]
}

export const emptySplit: Split = { regions: [], markers: [] }

/** Regions in the order of the timeline. */
export function ordered(regions: readonly Region[]): Region[] {
  return [...regions].sort((a, b) => a.in - b.in || a.out - b.out || a.id.localeCompare(b.id, 'en', { numeric: true }))
}

/** Whether a region's ends have been looked at as they are now. */
export const isLookedAt = ({ looked, ...r }: Region): boolean => looked?.in === r.in && looked.out === r.out

/** Whether two splits say the same, in whatever order. */
export function sameSplit(a: Split, b: Split): boolean {
  const text = (s: Split) =>
    JSON.stringify([
      ordered(s.regions).map((r) => [
        r.id,
        r.name,
        r.in,
        r.out,
        Object.entries(r.metadata).sort(([x], [y]) => (x < y ? -1 : 1)),
        r.kind ?? null,
        r.from ? [r.from.timelineId, r.from.regionId] : null,
        r.looked ? [r.looked.in, r.looked.out] : null,
      ]),
      [...s.markers].sort((x, y) => x.at - y.at || (x.id < y.id ? -1 : 1)).map((m) => [m.id, m.at, m.name]),
      [...(s.accepted ?? [])]
        .sort((x, y) => (x.id < y.id ? -1 : 1))
        .map((a) => [a.id, a.reason, a.initials, a.text ?? '']),
    ])
  return text(a) === text(b)
}
