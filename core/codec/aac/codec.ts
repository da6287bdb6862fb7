import type { SoundCodec } from '../codec'
import { webSoundEncoder } from '../web/encode'
import { webSound } from '../web/sound'
import { needCodecs } from '../web/webcodecs'
import { parseAudioSpecificConfig } from './describe'

/** AAC (ISO/IEC 14496-3). Its configuration is an AudioSpecificConfig. */
export const aac: SoundCodec = {
  name: 'aac',
  label: 'AAC',
  calls: { mp4: { entries: ['mp4a'], box: 'esds' }, matroska: { entries: ['A_AAC'] } },
  describe(configuration) {
    const p = configuration ? parseAudioSpecificConfig(configuration) : null
    if (!p) return { webCodec: 'mp4a.40.2' }
    return {
      ...(p.channels ? { channels: p.channels } : {}),
      sampleRate: p.sampleRate,
      bitDepth: 16,
      webCodec: `mp4a.40.${p.objectType}`,
    }
  },
  packetSamples: 1024,
  decode: webSound('AAC'),
  encode: {
    needsWeb: true,
    probe: { codec: 'mp4a.40.2', sampleRate: 48000, numberOfChannels: 2 },
    priming: 1024,
    packetSamples: 1024,
    open: (s, web) => webSoundEncoder(needCodecs(web, 'AAC'), 'mp4a.40.2', s),
  },
}
