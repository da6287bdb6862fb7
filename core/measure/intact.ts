import { plural } from '../text'
import { said, type Measure } from './measure'

/**
 * Whether a file is whole: not cut off, no track without its essence; and no picture that cannot be decoded, once all
 * were looked through.
 */
export const intact: Measure = {
  name: 'intact',
  label: 'File itself',
  group: 'structure',
  read({ damage, lookedThrough = true }) {
    if (!damage) return null
    const [first] = damage
    if (!first)
      return said(true, lookedThrough ? 'whole' : 'whole in its structure; its pictures were not looked through')
    const more = damage.length > 1 ? `, and ${plural(damage.length - 1, 'fault')} more` : ''
    return said(false, `not whole (${first.message.replace(/\.$/, '')}${more})`)
  },
  places: ({ pictures }) => pictures?.damaged ?? [],
  words: () => 'whole',
}
