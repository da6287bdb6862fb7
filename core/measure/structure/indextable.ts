import { said, type Measure } from '../measure'
import { inWordsOf } from '../words'

const words = { whole: 'of every frame', part: 'of some frames only', none: 'none' }

/**
 * Whether an MXF file says where each of its frames stands (SMPTE ST 377-1 11): `whole`, `part`, `none`; `none` also of
 * files that have no such thing.
 */
export const indexTable: Measure = {
  name: 'index-table',
  label: 'Index table',
  group: 'structure',
  counts: true,
  read({ described: d }) {
    if (!d) return null
    const covers = d.structure ? d.structure.index : 'none'
    return covers ? said(covers, words[covers]) : null
  },
  ...inWordsOf(words),
}
