import { dataText } from '../../media/ancillary'
import { said, type Measure } from '../measure'

/** Whether tracks of the source that are neither pictures nor sound get lost: captions, subtitles, ancillary data. */
export const dataKept: Measure = {
  name: 'data-kept',
  label: 'Captions and other data',
  group: 'structure',
  counts: true,
  stage: 'before',
  ends: true,
  read({ data }) {
    if (!data) return null
    const list = data.source.map(dataText).join('; ')
    if (data.lost.length === 0 && data.unread !== undefined) return said(null, data.unread)
    if (data.source.length === 0) return said('none', 'the source has none')
    if (data.lost.length === 0) return said('kept', `kept: ${list}`)
    return said('lost', `the source has ${data.lost.map(dataText).join('; ')}, which the file is without`)
  },
  words: () => 'none to lose, or kept',
}
