import { ofPictures, said } from './measure'

export const chroma = ofPictures('chroma', 'Chroma', (v) => said(v.chroma))
