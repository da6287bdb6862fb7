import { beatsText, repeatsOf } from '../../analysis/cadence'
import { said, type Measure } from '../measure'
import { stretchesText } from './stretches'

/** Whether pictures follow each other evenly, or some are repeated in a beat, as where a rate was made of another. */
export const cadence: Measure = {
  name: 'cadence',
  label: 'Cadence',
  group: 'content',
  ends: true,
  counts: true,
  read({ pictures, base, described }) {
    if (described && !described.video) return said('even', 'there are no pictures')
    const beats = pictures?.cadence
    if (!beats || !base) return null
    const repeated = repeatsOf(beats)
    if (repeated.length > 0) return said('repeated', `${beatsText(repeated)} (${stretchesText(repeated, base)})`)
    if (beats.length > 0) return said('held', `${beatsText(beats)} (${stretchesText(beats, base)})`)
    return said('even', 'none repeated in a beat')
  },
  words: (e) => ('oneOf' in e && e.oneOf.includes('held') ? 'even, or each picture twice' : 'even'),
  places: ({ pictures }) => repeatsOf(pictures?.cadence ?? []),
}
