import { bytesText } from '../../text'
import { said, type Measure } from '../measure'

/** Bytes in thousands of millions, GB; before the night as forecast. */
export const fileSize: Measure = {
  name: 'file-size',
  label: 'File size',
  group: 'structure',
  unit: ' GB',
  read: ({ described: d }) => (d ? said(d.bytes / 1e9, bytesText(d.bytes)) : null),
}
