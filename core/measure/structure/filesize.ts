import { bytesText } from '../../text'
import { said, type Measure } from '../measure'

/** Bytes in thousands of millions, GB; before the night as forecast, as exactly as that can be. */
export const fileSize: Measure = {
  name: 'file-size',
  label: 'File size',
  group: 'structure',
  unit: ' GB',
  read({ described: d }) {
    if (!d) return null
    const value = d.bytes / 1e9
    if (d.bytesOff === undefined || d.bytesOff === 0) return said(value, bytesText(d.bytes))
    const about = { ...said(value, `about ${bytesText(d.bytes)}`), aside: 'rough' as const }
    return d.bytesOff === null ? about : { ...about, give: { by: d.bytesOff / 1e9, when: 'as forecast' } }
  },
}
