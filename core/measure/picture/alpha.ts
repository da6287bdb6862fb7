import { said, type Measure } from '../measure'

/** Whether an alpha channel of the source gets lost: pictures are worked on without one. */
export const alpha: Measure = {
  name: 'alpha',
  label: 'Alpha',
  group: 'picture',
  counts: true,
  stage: 'before',
  ends: true,
  read({ alpha: of }) {
    if (!of) return null
    if (!of.source) return said('none', 'the source has none')
    return of.file ? said('kept', 'kept') : said('lost', 'the source has one, which the file is without')
  },
  words: () => 'none to lose, or kept',
}
