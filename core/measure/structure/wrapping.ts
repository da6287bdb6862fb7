import { said, type Measure } from '../measure'
import { inWordsOf } from '../words'

const words = { frame: 'frame by frame', clip: 'as one clip', none: 'none' }

/**
 * How the essence of an MXF file is wrapped (SMPTE ST 379-2): `frame`, `clip`; `none` of files that have no such
 * thing.
 */
export const wrapping: Measure = {
  name: 'wrapping',
  label: 'Wrapping',
  group: 'structure',
  read({ described: d }) {
    const kind = d?.structure?.wrapping ?? 'none'
    return d ? said(kind, words[kind]) : null
  },
  ...inWordsOf(words),
}
