import { codecLabel, pictureNames } from '../../codec/registry'
import { ofPictures, said } from '../measure'
import { inWords } from '../words'

export const codec = ofPictures('codec', 'Picture codec', (v) => said(v.codec, codecLabel(v.codec)), {
  ...inWords(pictureNames, codecLabel),
})
