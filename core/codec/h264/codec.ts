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

/** H.264 level that a raster, a rate and bits a second of High profile need (H.264 table A-1), as level_idc. */
export function avcLevel(width: number, height: number, rate: Rate, bitrate: number): number {
  const mbs = Math.ceil(width / 16) * Math.ceil(height / 16)
  const perSecond = (mbs * rate.num) / rate.den
  // High profile may take a quarter more than the table says (table A-2, cpbBrVclFactor)
  const found = levels.find(([, size, speed, bits]) => mbs <= size && perSecond <= speed && bitrate <= bits * 1250)
  return found?.[0] ?? 62
}

/** level_idc, MaxFS, MaxMBPS, MaxBR in units of 1000 bits a second (H.264 table A-1). */
const levels: readonly (readonly [number, number, number, number])[] = [
  [10, 99, 1485, 64],
  [11, 396, 3000, 192],
  [12, 396, 6000, 384],
  [13, 396, 11880, 768],
  [20, 396, 11880, 2000],
  [21, 792, 19800, 4000],
  [22, 1620, 20250, 4000],
  [30, 1620, 40500, 10_000],
  [31, 3600, 108_000, 14_000],
  [32, 5120, 216_000, 20_000],
  [40, 8192, 245_760, 20_000],
  [41, 8192, 245_760, 50_000],
  [42, 8704, 522_240, 50_000],
  [50, 22_080, 589_824, 135_000],
  [51, 36_864, 983_040, 240_000],
  [52, 36_864, 2_073_600, 240_000],
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
      level: (avcLevel(s.width, s.height, s.rate, s.bitrate ?? 0) / 10).toFixed(1),
    }),
    probe: { codec: 'avc1.640028', width: 1280, height: 720 },
    open(s, web) {
      const level = avcLevel(s.width, s.height, s.rate, s.bitrate).toString(16).padStart(2, '0')
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
