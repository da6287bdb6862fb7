import { activeFormatText, servicesText, type ActiveFormat } from '../../media/ancillary'
import { said, type Measure } from '../measure'

const shared = { stage: 'written', ends: true } as const

/** What ancillary packets of a file carry: the names of services that are in any of its frames. */
export const ancillary: Measure = {
  ...shared,
  name: 'ancillary',
  label: 'Ancillary data',
  group: 'structure',
  counts: true,
  read({ ancillary: facts }) {
    if (facts === undefined) return null
    return facts ? said(Object.keys(facts.services), servicesText(facts)) : said([], 'none in the file')
  },
}

const alike = (a: ActiveFormat, b: ActiveFormat) => a.code === b.code && a.wide === b.wide

/**
 * The active format that every frame says (SMPTE ST 2016-1): its code; `none`, or `varies` when not all say the same.
 */
export const activeFormat: Measure = {
  ...shared,
  name: 'active-format',
  label: 'Active format',
  group: 'picture',
  read({ ancillary: facts }) {
    if (facts === undefined) return null
    const [first] = facts?.formats ?? []
    if (!facts || !first) return said('none', 'not said')
    const runs = facts.formats.map((f) => `${activeFormatText(f)} for ${f.frames}`)
    const whole = first.frames === facts.frames
    if (whole) return said(first.code, activeFormatText(first))
    const list = runs.length > 4 ? [...runs.slice(0, 4), `${runs.length - 4} more`] : runs
    const some = facts.formats.every((f) => alike(f, first))
    return said('varies', `${some ? 'not said by every frame' : 'not the same throughout'}: ${list.join(', ')} frames`)
  },
}
