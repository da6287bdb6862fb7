import { framesToSeconds } from '../../time/rate'
import { said, type Measure } from '../measure'

/** Seconds of the longest partition of essence of an MXF file (SMPTE ST 377-1 7). */
export const bodyPartitionLength: Measure = {
  name: 'body-partition-length',
  label: 'Longest body partition',
  group: 'structure',
  unit: ' s',
  read({ described: d }) {
    if (!d) return null
    if (!d.structure) return said(null, 'it is no MXF file')
    const { bodies } = d.structure
    if (!bodies) return null
    const seconds = framesToSeconds(bodies.longest, bodies.rate)
    return said(seconds, `${Number(seconds.toFixed(2))} s`)
  },
  fix({ expect }) {
    const most = 'max' in expect ? Math.floor(expect.max ?? 0) : 0
    return most >= 1 && most <= 3600 ? { partitions: most } : null
  },
}
