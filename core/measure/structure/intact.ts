import { listed, plural } from '../../text'
import { said, type Measure, type Reading } from '../measure'

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
    const faults = damage.map((d) => d.message)
    return { ...said(false, `not whole (${first.message.replace(/\.$/, '')}${more})`), faults }
  },
  places: ({ pictures }) => pictures?.damaged ?? [],
  words: () => 'whole',
}

/**
 * What is read of a file as a whole, with what lists of checksums say of it: `same` and `other` tell which sums it has
 * and which it has not, e.g. `MD5 in night.md5`. A sum tells that a file is what was sent, not that this was whole.
 */
export function withSums(reading: Reading, same: readonly string[], other: readonly string[]): Reading {
  const { value, text } = reading
  if (other.length === 0) return same.length === 0 ? reading : { ...reading, text: `${text}, with the ${listed(same)}` }
  const sent = `not what was sent (it has not the ${listed(other)})`
  const faults = [...(reading.faults ?? []), sent]
  return { ...reading, value: false, text: value === false ? `${text}, and ${sent}` : sent, faults }
}
