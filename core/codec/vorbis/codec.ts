import type { SoundCodec } from '../codec'
import { webSound } from '../web/sound'

/** Vorbis, as WebM and Matroska files carry it. */
export const vorbis: SoundCodec = {
  name: 'vorbis',
  label: 'Vorbis',
  calls: { matroska: { entries: ['A_VORBIS'] } },
  describe: () => ({ webCodec: 'vorbis' }),
  decode: webSound('Vorbis'),
}
