import { beatsText, repeatsOf } from '../../analysis/cadence'
import { placed, said, type Measure } from '../measure'
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
    const [value, list] = repeated.length > 0 ? ['repeated', repeated] : ['held', beats]
    if (list.length > 0)
      return { ...said(value, `${beatsText(list)} (${stretchesText(list, base)})`), ...placed(list, base) }
    return said('even', 'none repeated in a beat')
  },
  words: (e) => ('oneOf' in e && e.oneOf.includes('held') ? 'even, or each picture twice' : 'even'),
  places: ({ pictures }) => repeatsOf(pictures?.cadence ?? []),
}
