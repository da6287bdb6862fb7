import { said, type Measure } from '../measure'
import { inWordsOf } from '../words'

const words = {
  'closed-complete': 'closed and complete',
  'closed-incomplete': 'closed, not complete',
  'open-complete': 'open, complete',
  'open-incomplete': 'open and not complete',
  none: 'none',
}

/**
 * Whether the header of an MXF file says that nothing of it will change (closed) and that all of it is known
 * (complete): SMPTE ST 377-1 7.1. `none` of files that have no such thing.
 */
export const headerPartition: Measure = {
  name: 'header-partition',
  label: 'Header partition',
  group: 'structure',
  read({ described: d }) {
    if (!d) return null
    const state = d.structure ? d.structure.header : 'none'
    return state ? said(state, words[state]) : null
  },
  ...inWordsOf(words),
}
