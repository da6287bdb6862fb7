import { ofSound, said } from './measure'

export const soundCodec = ofSound('sound-codec', 'Sound codec', (a) => said(a.codec))
