import type { PictureCodec } from '../codec'
import { webPictures } from '../web/pictures'
import { describeAv1 } from './describe'

/** AV1, as WebM and Matroska files carry it. */
export const av1: PictureCodec = {
  name: 'av1',
  label: 'AV1',
  calls: { mp4: { entries: ['av01'], tells: 'av1C' }, matroska: { entries: ['V_AV1'] } },
  describe: describeAv1,
  decode: webPictures('AV1'),
}
