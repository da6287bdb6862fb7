import type { PictureCodec } from '../codec'
import { webPictures } from '../web/pictures'

/** VP8, as WebM and Matroska files carry it. */
export const vp8: PictureCodec = {
  name: 'vp8',
  label: 'VP8',
  calls: { matroska: { entries: ['V_VP8'] } },
  // all of it has these (RFC 6386 2)
  describe: () => ({ webCodec: 'vp8', bitDepth: 8, chroma: '4:2:0', scan: 'progressive' }),
  decode: webPictures('VP8'),
}
