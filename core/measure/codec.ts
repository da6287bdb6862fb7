import { ofPictures, said } from './measure'

export const codec = ofPictures('codec', 'Picture codec', (v) => said(v.codec))
