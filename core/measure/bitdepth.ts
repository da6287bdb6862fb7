import { ofPictures, said } from './measure'

export const bitDepth = ofPictures('bit-depth', 'Bit depth', (v) => said(v.bitDepth, `${v.bitDepth} bit`), {
  unit: ' bit',
})
