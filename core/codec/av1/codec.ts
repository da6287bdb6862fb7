import type { PictureCodec } from '../codec'
import { webPictures } from '../web/pictures'

/** AV1, as WebM and Matroska files carry it. */
export const av1: PictureCodec = {
  name: 'av1',
  label: 'AV1',
  calls: { mp4: { entries: ['av01'] }, matroska: { entries: ['V_AV1'] } },
  describe: () => ({ webCodec: 'av01.0.08M.08' }),
  decode: webPictures('AV1'),
}
