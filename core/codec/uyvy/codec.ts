import type { PictureCodec } from '../codec'
import { plainPictures } from '../plain'
import { decodeUyvy, uyvySize } from './uyvy'

/** 4:2:2 8 bit, uncompressed, in the order Cb Y Cr Y. */
export const uyvy: PictureCodec = {
  name: 'uyvy',
  label: 'uncompressed 4:2:2 8 bit',
  calls: { mp4: { entries: ['2vuy', 'UYVY'], brands: ['mov'] } },
  describe: () => ({ chroma: '4:2:2', bitDepth: 8 }),
  decode: plainPictures(uyvySize, decodeUyvy),
}
