import { momentsText, unlikeLabel } from '../../analysis/fields'
import { hasFields, scanText } from '../../media/scan'
import { placed, said, type Measure } from '../measure'
import { stretchesText } from './stretches'

/** Whether pictures are of one moment or of two, and of which first, as their file says; by what moves in them. */
export const fields: Measure = {
  name: 'fields',
  label: 'Fields',
  group: 'content',
  ends: true,
  counts: true,
  ofFields: true,
  read({ pictures, scan, base, described }) {
    if (described && !described.video) return said('as labelled', 'there are no pictures')
    const seen = pictures?.fields
    if (!seen || !scan || !base) return null
    const other = unlikeLabel(seen, scan)
    if (other.length > 0)
      return {
        ...said('otherwise', `${momentsText(other)}, said to be ${scanText(scan)} (${stretchesText(other, base)})`),
        ...placed(other, base),
      }
    if (seen.two.length > 0) return said('as labelled', momentsText(seen.two))
    if (seen.one) return said('as labelled', 'of one moment each')
    return hasFields(scan)
      ? said(null, 'nothing moves so that it tells which field comes first')
      : said('as labelled', 'none of two moments')
  },
  words: () => 'as labelled',
  places: ({ pictures, scan }) => (pictures?.fields && scan ? unlikeLabel(pictures.fields, scan) : []),
}
