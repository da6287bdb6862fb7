import { framesToSeconds } from '../../time/rate'
import { said, type Measure } from '../measure'

/** Mbit/s of the pictures alone, over all of them. */
export const pictureBitRate: Measure = {
  name: 'picture-bit-rate',
  label: 'Picture bit rate',
  group: 'picture',
  unit: ' Mbit/s',
  stage: 'written',
  ends: true,
  read({ units: u }) {
    if (!u || u.count === 0) return null
    const megabits = (u.bytes * 8) / framesToSeconds(u.count, u.rate) / 1e6
    return said(megabits, `${megabits.toFixed(2)} Mbit/s`)
  },
}
