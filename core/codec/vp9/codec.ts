import type { PictureCodec } from '../codec'
import { webPictures } from '../web/pictures'

/** VP9, as WebM and Matroska files carry it. */
export const vp9: PictureCodec = {
  name: 'vp9',
  label: 'VP9',
  calls: { mp4: { entries: ['vp09'] }, matroska: { entries: ['V_VP9'] } },
  describe: () => ({ webCodec: 'vp09.00.40.08' }),
  decode: webPictures('VP9'),
}
