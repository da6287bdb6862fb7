import type { Clash } from '../../core/split/merge'
import { regionKinds } from '../../core/split/kinds'
import type { Marker, Region } from '../../core/split/region'
import { formatTimecode } from '../../core/time/timecode'
import type { Timeline } from '../../core/timeline/model'

/** One thing in which two states of a region or marker differ, as text; `frame` where it is a place. */
export interface Difference {
  readonly label: string
  readonly mine: Said
  readonly theirs: Said
}
interface Said {
  readonly text: string
  readonly frame: number | null
}

const nothing: Said = { text: '—', frame: null }
const text = (t: string | undefined): Said => (t ? { text: t, frame: null } : nothing)

/** Everything that can be said of a region or marker, by its label. */
function facts(x: Region | Marker | null, t: Timeline): ReadonlyMap<string, Said> {
  if (!x) return new Map()
  const at = (frame: number): Said => ({ text: formatTimecode(t.start + frame, t), frame })
  if ('at' in x)
    return new Map([
      ['name', text(x.name)],
      ['frame', at(x.at)],
    ])
  return new Map([
    ['name', text(x.name)],
    ['first frame', at(x.in)],
    ['last frame', at(x.out - 1)],
    ['kind', text(x.kind && regionKinds[x.kind].one)],
    ...Object.entries(x.metadata).map(([field, value]) => [field, text(value)] as const),
  ])
}

/** In what a clash differs from what stands; of what one of them took away, that. */
export function differences(
  mine: Clash['mine'],
  theirs: Region | Marker | null,
  timeline: Timeline,
): readonly Difference[] {
  if (!mine || !theirs) {
    const said = (x: typeof theirs) => text(x ? 'kept' : 'deleted')
    return [{ label: '', mine: said(mine), theirs: said(theirs) }]
  }
  const [m, t] = [facts(mine, timeline), facts(theirs, timeline)]
  return [...new Set([...m.keys(), ...t.keys()])].flatMap((label) => {
    const both = { mine: m.get(label) ?? nothing, theirs: t.get(label) ?? nothing }
    return both.mine.text === both.theirs.text ? [] : [{ label, ...both }]
  })
}
