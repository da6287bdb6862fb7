import { Reader } from '../../bytes'
import type { SoundCodec } from '../codec'
import { webSound } from '../web/sound'
import { flacHeadBytes, flacPacketLength } from './packet'

/** FLAC (RFC 9639). Its configuration is `fLaC` and the metadata blocks, STREAMINFO first. */
export const flac: SoundCodec = {
  name: 'flac',
  label: 'FLAC',
  keepsDepth: true,
  calls: { mp4: { entries: ['fLaC'], box: 'dfLa' }, matroska: { entries: ['A_FLAC'] } },
  describe(configuration) {
    if (!configuration || configuration.length < 42) return { webCodec: 'flac' }
    const info = new Reader(configuration.subarray(8), 'fLaC')
    info.skip(10)
    const packed = info.u32()
    return {
      channels: ((packed >>> 9) & 7) + 1,
      sampleRate: packed >>> 12,
      bitDepth: ((packed >>> 4) & 31) + 1,
      webCodec: 'flac',
    }
  },
  packetLength: { bytes: flacHeadBytes, of: flacPacketLength },
  decode: webSound('FLAC', { counted: true }),
}
