import { ofPictures, said } from '../measure'

export const pixelAspect = ofPictures('pixel-aspect', 'Pixel aspect', (v) => said(v.pixelAspect))
