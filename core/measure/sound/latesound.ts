import { said, type Measure } from '../measure'

/** Seconds that the sound begins after the pictures, which a file fills with silence. */
export const lateSound: Measure = {
  name: 'late-sound',
  label: 'Late sound',
  group: 'sound',
  counts: true,
  unit: ' s',
  read({ described: d }) {
    if (d?.late === undefined) return null
    return said(d.late, d.late === 0 ? 'nothing' : `${d.late.toFixed(3)} s`)
  },
}
