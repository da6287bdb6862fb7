import { said, type Measure } from '../measure'

/** How far the ends of pictures and sound are apart, in frames, of whichever track is furthest off. */
export const trackLengths: Measure = {
  name: 'track-lengths',
  label: 'Track ends apart',
  group: 'time',
  counts: true,
  unit: ' frames',
  read({ described: d }) {
    if (d?.apart === undefined) return null
    if (d.apart === 0) return said(0, 'nothing')
    return said(d.apart, d.apart < 0.01 ? 'less than 0.01 frames' : `${d.apart.toFixed(2)} frames`)
  },
}
