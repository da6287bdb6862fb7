import type { PictureCodec } from '../codec'
import { webPictures } from '../web/pictures'
import { describeVp9 } from './describe'

/** VP9, as WebM and Matroska files carry it. */
export const vp9: PictureCodec = {
  name: 'vp9',
  label: 'VP9',
  calls: { mp4: { entries: ['vp09'], tells: 'vpcC' }, matroska: { entries: ['V_VP9'] } },
  describe: describeVp9,
  decode: webPictures('VP9'),
}
