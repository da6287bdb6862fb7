import { contradictionText } from '../../media/stated'
import { ofPictures, said } from '../measure'

/** In how much a file's container and the coded pictures in it state different things of these. */
export const contradictions = ofPictures(
  'contradictions',
  'Container against pictures',
  ({ contradictions: list }) => {
    if (!list) return said(null, 'the pictures themselves were not looked into')
    return said(list.length, list.length ? list.map(contradictionText).join('; ') : 'nothing differs')
  },
  { group: 'structure', counts: true, words: (e) => ('max' in e && e.max === 0 ? 'nothing differs' : null) },
)
