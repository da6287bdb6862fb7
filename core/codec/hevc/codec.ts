import type { PictureCodec } from '../codec'
import { hevcUnits } from '../nal'
import { webPictures } from '../web/pictures'
import { parseHevcConfiguration } from './describe'

/** HEVC (ITU-T H.265). Its configuration is an HEVCDecoderConfigurationRecord (ISO/IEC 14496-15 8.3.3.1). */
export const hevc: PictureCodec = {
  name: 'hevc',
  label: 'HEVC',
  calls: { mp4: { entries: ['hvc1', 'hev1'], box: 'hvcC' }, matroska: { entries: ['V_MPEGH/ISO/HEVC'] } },
  describe(configuration) {
    const p = configuration ? parseHevcConfiguration(configuration) : null
    if (!p) return {}
    return {
      profile: p.profile,
      level: p.level,
      width: p.width,
      height: p.height,
      chroma: p.chroma,
      bitDepth: p.bitDepth,
      pixelAspect: p.pixelAspect,
      ...(p.colour ? { colour: p.colour } : {}),
      ...(p.scan ? { scan: p.scan } : {}),
      webCodec: p.webCodec,
    }
  },
  nal: hevcUnits,
  decode: webPictures('HEVC'),
}
