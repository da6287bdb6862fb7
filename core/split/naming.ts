import { templatePieces } from '../text'
import { lastAtOrBefore } from '../time/order'
import { formatTimecode } from '../time/timecode'
import type { Shot, Timeline } from '../timeline/model'
import type { NamedRange } from './makers/maker'
import type { Marker } from './region'
import { shotAt } from './shots'

/** What names of regions can be made from. */
export interface NamingContext {
  readonly timeline: Timeline
  readonly shots: readonly Shot[]
  /** In order. */
  readonly markers: readonly Marker[]
  /** The number of the first one. */
  readonly first?: number
}

type Value = (r: NamedRange, number: string, c: NamingContext) => string

/** What can stand in a pattern of region names, in the order it is offered: a new field is a line here. */
export const regionNameFields: Readonly<Record<string, { readonly text: string; readonly value: Value }>> = {
  name: { text: 'its own name', value: (r) => r.name },
  number: { text: 'a number from 01', value: (_, number) => number },
  shot: { text: 'the shot it begins with', value: (r, _, c) => shotAt(c.shots, r.in)?.name ?? '' },
  marker: {
    text: 'the marker at or before its first frame',
    value: (r, _, c) =>
      c.markers[
        lastAtOrBefore(
          c.markers.map((m) => m.at),
          r.in,
        )
      ]?.name ?? '',
  },
  timecode: {
    text: 'timecode of its first frame',
    value: (r, _, c) => formatTimecode(c.timeline.start + r.in, c.timeline),
  },
  timeline: { text: 'name of the timeline', value: (_, __, c) => c.timeline.name },
}

/**
 * Names of regions in a row by a pattern of `{field}`s; what has more than one digit to count to has zeros in front.
 * A field that is not known stays, to be seen.
 */
export function regionNames(pattern: string, ranges: readonly NamedRange[], context: NamingContext): string[] {
  const first = context.first ?? 1
  const digits = Math.max(2, String(first + ranges.length - 1).length)
  const pieces = templatePieces(pattern)
  return ranges.map((r, i) => {
    const number = String(first + i).padStart(digits, '0')
    return pieces
      .map((p) => {
        if ('text' in p) return p.text
        const value = regionNameFields[p.field]?.value(r, number, context) ?? `{${p.field}}`
        return p.prefix === null ? value : [...value].slice(0, p.prefix).join('')
      })
      .join('')
      .trim()
  })
}
