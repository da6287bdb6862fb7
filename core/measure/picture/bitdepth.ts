import { ifTold, ofPictures } from '../measure'

export const bitDepth = ofPictures('bit-depth', 'Bit depth', (v) => ifTold(v, 'bitDepth', `${v.bitDepth} bit`), {
  unit: ' bit',
})
