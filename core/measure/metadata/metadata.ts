import { filledIn } from '../../split/papers'
import { said, type Measure } from '../measure'

/** The programme metadata that was typed, or that a file carries, by field. */
export const metadata: Measure = {
  name: 'metadata',
  label: 'Programme metadata',
  group: 'metadata',
  counts: true,
  read({ metadata: fields }) {
    if (!fields) return null
    const typed = filledIn(fields)
    const words = Object.entries(typed).map(([k, v]) => `${k} ${v}`)
    return said(typed, words.join(', ') || 'none typed')
  },
}
