import { plural } from '../text'
import { said, type Measure } from './measure'

/** Whether a file is whole, as far as its own structure tells: not cut off, no track without its essence. */
export const intact: Measure = {
  name: 'intact',
  label: 'File itself',
  group: 'structure',
  read({ damage }) {
    if (!damage) return null
    const [first] = damage
    if (!first) return said(true, 'whole')
    const more = damage.length > 1 ? `, and ${plural(damage.length - 1, 'fault')} more` : ''
    return said(false, `not whole (${first.message.replace(/\.$/, '')}${more})`)
  },
  places: ({ pictures }) => pictures?.damaged ?? [],
  words: () => 'whole',
}
