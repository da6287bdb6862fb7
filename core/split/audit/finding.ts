import type { FrameRange } from '../../time/range'
import { makeRate, type Frames, type Rate } from '../../time/rate'
import type { Region, Split } from '../region'

/** Every kind of fault, in words: one of them, and many. */
export const findingWords = {
  overlap: ['overlap', 'overlaps'],
  'no-gap': ['missing gap', 'missing gaps'],
  sliver: ['sliver', 'slivers'],
  'off-cut': ['start off a cut', 'starts off a cut'],
  'in-dissolve': ['edge within a dissolve or wipe', 'edges within dissolves or wipes'],
  'flash-frame': ['flash of another shot', 'flashes of other shots'],
  'sound-cut': ['sound cut off', 'sounds cut off'],
  length: ['length an outlet does not take', 'lengths outlets do not take'],
  'no-media': ['region without media', 'regions without media'],
  twice: ['delivered twice', 'delivered twice'],
  undelivered: ['stretch nobody delivers', 'stretches nobody delivers'],
  'same-name': ['same name', 'same names'],
  'past-end': ['past the end', 'past the end'],
  'no-name': ['without a name', 'without a name'],
  'bad-name': ['name no file can have', 'names no file can have'],
} as const satisfies Record<string, readonly [one: string, many: string]>
export type FindingKind = keyof typeof findingWords

/** One fault of a split, in words, with the place and, where it is plain, what would mend it. */
export interface Finding {
  readonly kind: FindingKind
  readonly severity: 'fail' | 'caution'
  readonly text: string
  readonly regions: readonly string[]
  readonly range: FrameRange
  /** What else it follows from, beside regions and frames: with another it is another fault. */
  readonly of?: string
  readonly fix: { readonly label: string; readonly apply: (split: Split) => Split } | null
}

export interface AuditOptions {
  /** Frames asked for between two regions; 0 when they may touch. */
  readonly gap: Frames
  /** An edge this near to a cut, but not on it, is a sliver. */
  readonly sliver: Frames
  /** Of the timeline: what its lengths are said in. */
  readonly rate: Rate
  /** Where one picture goes over into another, by a dissolve or a wipe, in order. */
  readonly dissolves?: readonly FrameRange[]
  /** Cuts that were found in the pictures and that no list gives, in order. */
  readonly found?: readonly Frames[]
  /** Stretches whose media is not there, and what is wrong with it. */
  readonly troubles?: readonly (FrameRange & { readonly word: string; readonly grave: boolean })[]
  /** Momentary loudness of the 400 ms up to each tenth of a second, LUFS; null for silence. */
  readonly momentary?: readonly (number | null)[]
  /** What outlets say of each region's length, by its id: in words, and whether it keeps the region back. */
  readonly lengths?: ReadonlyMap<string, readonly { readonly why: string; readonly blocks: boolean }[]>
  /** Names of the outlets each region goes to, by its id. */
  readonly outlets?: ReadonlyMap<string, readonly string[]>
}

export const defaultAudit: AuditOptions = { gap: 0, sliver: 5, rate: makeRate(25) }

/**
 * What makes a fault the same one as before: its kind, its frames, its regions, of many the first and how many, and
 * what else it follows from.
 */
export function findingId({ kind, regions, range, of }: Finding): string {
  const more = regions.length > 8 ? `+${regions.length - 8}` : ''
  const id = `${kind} ${regions.slice(0, 8).join('+')}${more} ${range.in}-${range.out}`
  return of === undefined ? id : `${id} ${of.slice(0, 1000)}`
}

/** A region as findings call it. */
export const called = (r: Region) => `“${r.name || 'without a name'}”`
