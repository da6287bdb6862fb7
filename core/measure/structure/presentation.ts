import { edgesText, presentationTexts } from '../../media/presentation'
import { listed, plural } from '../../text'
import { said, type Measure } from '../measure'

/** Whether players show a file's pictures as they are coded, which is how they are measured; and all there are. */
export const presentation: Measure = {
  name: 'presentation',
  label: 'Shown as coded',
  group: 'structure',
  ends: true,
  read({ described: d }) {
    if (!d) return null
    if (!d.video) return said('as coded', 'there are no pictures')
    const how = presentationTexts(d.video)
    if (how.length) return said('otherwise', `otherwise than coded: ${listed(how)}`)
    const several = d.pictureTracks ?? 1
    if (several > 1) return said('otherwise', `one of ${plural(several, 'track')} of pictures was measured`)
    return said('as coded', ['as coded', edgesText(d.video)].filter(Boolean).join(' '))
  },
  words: () => 'as coded',
}
