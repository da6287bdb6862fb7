import { contradictionText } from '../../media/stated'
import { ofPictures, said } from '../measure'

/** In how much a file's container and the coded pictures in it state different things of these. */
export const contradictions = ofPictures(
  'contradictions',
  'Container against pictures',
  ({ contradictions: list }) => {
    if (!list) return said(null, 'the pictures themselves were not looked into')
    const faults = list.map(contradictionText)
    return { ...said(list.length, faults.join('; ') || 'nothing differs'), faults }
  },
  { group: 'structure', counts: true, words: (e) => ('max' in e && e.max === 0 ? 'nothing differs' : null) },
)
