import { ifTold, ofPictures } from '../measure'

export const chroma = ofPictures('chroma', 'Chroma', (v) => ifTold(v, 'chroma', v.chroma))
