import { plural } from '../../text'
import { said, wanted, type Measure } from '../measure'

/** How many partitions the essence of an MXF file is in (SMPTE ST 377-1 7); none of other files. */
export const bodyPartitions: Measure = {
  name: 'body-partitions',
  label: 'Body partitions',
  group: 'structure',
  counts: true,
  read({ described: d }) {
    if (!d) return null
    if (!d.structure) return said(0, 'none: it is no MXF file')
    const { bodies } = d.structure
    return bodies ? said(bodies.count, `${plural(bodies.count, 'partition')} of essence`) : null
  },
  fix({ expect }) {
    const one = wanted(expect) === 1 || ('max' in expect && (expect.max ?? 0) >= 1)
    return one ? { partitions: null } : null
  },
}
