import { unlikeLabel } from '../../core/analysis/fields'
import { repeatsOf } from '../../core/analysis/cadence'
import type { Found } from '../../core/measure/measure'
import type { FrameRange } from '../../core/time/range'
import type { ShownTimeline } from '../../contract/timelines'

interface FlagKind {
  readonly name: string
  readonly letter: string
  readonly colour: string
  readonly of: (found: Found) => readonly FrameRange[] | undefined
}

/** What is flagged on the strip: its name, letter and colour, and where it is. */
export const flagKinds: readonly FlagKind[] = [
  { name: 'cannot be decoded', letter: 'X', colour: 'red', of: ({ pictures }) => pictures?.damaged },
  { name: 'black', letter: 'B', colour: 'quiet', of: ({ pictures }) => pictures?.black },
  { name: 'freeze', letter: 'Z', colour: 'lilac', of: ({ pictures }) => pictures?.freeze },
  { name: 'flashes', letter: 'F', colour: 'red', of: ({ pictures }) => pictures?.flashes },
  {
    ...{ name: 'fields not as labelled', letter: 'I', colour: 'red' },
    of: ({ pictures, scan }) => (pictures?.fields && scan ? unlikeLabel(pictures.fields, scan) : []),
  },
  {
    ...{ name: 'pictures repeated in a beat', letter: 'U', colour: 'ochre' },
    of: ({ pictures }) => repeatsOf(pictures?.cadence ?? []),
  },
  { name: 'out of level', letter: 'R', colour: 'ochre', of: ({ pictures }) => pictures?.levels?.excursions },
  { name: 'silence', letter: 'S', colour: 'quiet', of: ({ trouble }) => trouble?.silence },
  { name: 'click', letter: 'K', colour: 'ochre', of: ({ trouble }) => trouble?.clicks },
  { name: 'dropout', letter: 'D', colour: 'red', of: ({ trouble }) => trouble?.dropouts },
  { name: 'data in the place of sound', letter: 'C', colour: 'lilac', of: ({ trouble }) => trouble?.data },
  { name: 'out of phase', letter: 'P', colour: 'red', of: ({ trouble }) => trouble?.phase },
]

/** Those of a kind in a timeline. */
export type Flag = Omit<FlagKind, 'of'> & { readonly list: readonly FrameRange[] }

/** What the pass over a timeline found. */
export const foundIn = ({ analysis, info }: Pick<ShownTimeline, 'analysis' | 'info'>): Found => ({
  pictures: analysis.pictures,
  scan: info.video[0]?.scan ?? null,
  trouble: analysis.sound?.faults ?? null,
})

/** The flags of a timeline, kind by kind. */
export const flagsIn = (timeline: Pick<ShownTimeline, 'analysis' | 'info'>): Flag[] =>
  flagKinds.map(({ of, ...kind }) => ({ ...kind, list: of(foundIn(timeline)) ?? [] }))
