import type { SoundCodec } from '../codec'
import { opusHeadBytes, opusPacketLength } from './packet'
import { webSound } from '../web/sound'

/** Opus (RFC 6716). Its configuration is the identification header of RFC 7845 5.1; it always runs at 48 kHz. */
export const opus: SoundCodec = {
  name: 'opus',
  label: 'Opus',
  calls: { mp4: { entries: ['Opus'], box: 'dOps' }, matroska: { entries: ['A_OPUS'] } },
  describe: (configuration) => ({
    ...(configuration && configuration.length > 9 ? { channels: configuration[9]! } : {}),
    sampleRate: 48_000,
    bitDepth: 16,
    webCodec: 'opus',
  }),
  packetLength: { bytes: opusHeadBytes, of: opusPacketLength },
  decode: webSound('Opus'),
}
