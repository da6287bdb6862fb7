import { codecLabel, soundNames } from '../../codec/registry'
import { ofSound, said } from '../measure'
import { inWords } from '../words'

export const soundCodec = ofSound('sound-codec', 'Sound codec', (a) => said(a.codec, codecLabel(a.codec)), {
  ...inWords(soundNames, codecLabel),
})
