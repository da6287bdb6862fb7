import { listed } from '../../text'
import { said, type Measure } from '../measure'

/** Whether something is drawn into the pictures of a master: made for a viewing copy, it is left on easily. */
export const drawn: Measure = {
  name: 'drawn-in',
  label: 'Drawn into pictures',
  group: 'picture',
  counts: true,
  stage: 'before',
  ends: true,
  read({ drawn: of }) {
    if (!of) return null
    if (of.what.length === 0) return said('nothing', 'nothing')
    return said(of.master ? 'in a master' : 'in a copy', `${listed(of.what)}${of.master ? ', of a master' : ''}`)
  },
  words: () => 'nothing, or in a copy to be looked at',
  fix: () => ({ burnTimecode: false, burnName: false, burnDate: false, burnMark: '' }),
}
