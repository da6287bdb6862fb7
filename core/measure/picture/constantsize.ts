import { bytesText } from '../../text'
import { said, type Measure } from '../measure'
import { namedWords } from '../words'

/** Whether every picture takes as many bytes as any other. */
export const constantSize: Measure = {
  name: 'constant-size',
  label: 'Size of each picture',
  group: 'picture',
  stage: 'written',
  ends: true,
  read({ units: u }) {
    if (!u || u.count === 0) return null
    if (u.least === u.most) return said(true, `constant, ${bytesText(u.most)}`)
    return said(false, `${u.least} to ${u.most} bytes`)
  },
  words: namedWords((same) => (same === 'true' ? 'constant' : 'varying')),
}
