import { lengthText } from '../../time/timecode'
import { said, type Measure } from '../measure'

/** Whether there are as many frames before and after a region as are to be delivered with it. */
export const shortHandles: Measure = {
  name: 'short-handles',
  label: 'Handles',
  group: 'time',
  counts: true,
  stage: 'before',
  read({ handles: h }) {
    if (!h) return null
    if (h.wanted === 0) return said('whole', 'none asked for')
    const all = lengthText(h.wanted, h.rate)
    if (h.before === h.wanted && h.after === h.wanted) return said('whole', `${all} before and after`)
    return said('short', `${h.before} before and ${h.after} after it on the timeline, ${all} each asked for`)
  },
  words: () => 'as long as asked for',
}
