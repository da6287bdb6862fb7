import { makeRate, type Rate } from '../../time/rate'
import type { PictureCodec } from '../codec'
import { webPictureEncoder } from '../web/encode'
import { webPictures } from '../web/pictures'
import { needCodecs } from '../web/webcodecs'
import { bt709 } from '../../media/colour'
import { configurationWithColour } from './colour'
import { parseAvcConfiguration, parseAvcSps } from './describe'
import { avcUnits } from '../nal'
import { isIntra } from '../h264-intra/parameters'
import { isAlone, unitFault } from './unit'

/** H.264 level that a raster and rate need (H.264 table A-1), as level_idc. */
export function avcLevel(width: number, height: number, rate: Rate): number {
  const mbs = Math.ceil(width / 16) * Math.ceil(height / 16)
  const perSecond = (mbs * rate.num) / rate.den
  return levels.find(([, size, speed]) => mbs <= size && perSecond <= speed)?.[0] ?? 62
}

/** level_idc, MaxFS, MaxMBPS (H.264 table A-1). */
const levels: readonly (readonly [number, number, number])[] = [
  [30, 1620, 40500],
  [31, 3600, 108000],
  [32, 5120, 216000],
  [40, 8192, 245760],
  [42, 8704, 522240],
  [50, 22080, 589824],
  [51, 36864, 983040],
  [52, 36864, 2073600],
]

/**
 * The sequence parameter set in the first access unit of a byte stream (H.264 Annex B), for tracks that carry it only
 * there.
 */
function sequenceIn(bytes: Uint8Array): Uint8Array | null {
  for (let i = 0; i + 4 < bytes.length; i++) {
    if (bytes[i] !== 0 || bytes[i + 1] !== 0 || bytes[i + 2] !== 1 || (bytes[i + 3]! & 0x1f) !== 7) continue
    let end = i + 4
    while (end + 3 < bytes.length && !(bytes[end] === 0 && bytes[end + 1] === 0 && bytes[end + 2]! <= 1)) end++
    return bytes.slice(i + 3, end + 3 < bytes.length ? end : bytes.length)
  }
  return null
}

/** H.264 (ITU-T H.264). Its configuration is an AVCDecoderConfigurationRecord (ISO/IEC 14496-15 5.3.3.1). */
export const h264: PictureCodec = {
  name: 'h264',
  label: 'H.264',
  calls: { mp4: { entries: ['avc1', 'avc3'], box: 'avcC' }, matroska: { entries: ['V_MPEG4/ISO/AVC'] } },
  describe(configuration, first) {
    const sets = configuration ? parseAvcConfiguration(configuration) : null
    const sps = sets ? sets.sps[0] : first ? sequenceIn(first) : null
    const p = sps ? parseAvcSps(sps) : null
    if (!p) return {}
    const ours = sets !== null && isIntra(sets)
    return {
      ...(ours ? { codec: 'h264-intra' } : {}),
      profile: p.profile,
      level: p.level,
      width: p.width,
      height: p.height,
      scan: p.frameMbsOnly ? 'progressive' : 'interlaced',
      chroma: p.chroma,
      bitDepth: p.bitDepth,
      pixelAspect: p.pixelAspect,
      colour: p.colour,
      timing: p.timing ? makeRate(p.timing.num, p.timing.den) : null,
      webCodec: ours ? null : p.webCodec,
    }
  },
  nal: avcUnits,
  unitFault,
  isAlone,
  decode: webPictures('H.264'),
  encode: {
    needsWeb: true,
    bitDepth: 8,
    as: (s) => ({
      chroma: '4:2:0',
      profile: 'High',
      level: (avcLevel(s.width, s.height, s.rate) / 10).toFixed(1),
    }),
    probe: { codec: 'avc1.640028', width: 1280, height: 720 },
    open(s, web) {
      const level = avcLevel(s.width, s.height, s.rate).toString(16).padStart(2, '0')
      const encoder = webPictureEncoder(needCodecs(web, 'H.264'), `avc1.6400${level}`, s)
      return {
        ...encoder,
        configuration() {
          const record = encoder.configuration()
          return record && configurationWithColour(record, s.colour ?? bt709)
        },
      }
    },
  },
}
