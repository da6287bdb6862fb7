import type { SoundCodec } from '../codec'
import { withRunIn } from '../runin'
import { webSoundEncoder } from '../web/encode'
import { webSound } from '../web/sound'
import { needCodecs } from '../web/webcodecs'
import { parseAudioSpecificConfig } from './describe'

/** Samples of a packet, and of what a coder gives before the first that it was fed. */
const own = { packetSamples: 1024, priming: 1024 }

/** AAC (ISO/IEC 14496-3). Its configuration is an AudioSpecificConfig. */
export const aac: SoundCodec = {
  name: 'aac',
  label: 'AAC',
  calls: { mp4: { entries: ['mp4a'], box: 'esds' }, matroska: { entries: ['A_AAC'] } },
  describe(configuration) {
    const p = configuration ? parseAudioSpecificConfig(configuration) : null
    if (!p) return { webCodec: 'mp4a.40.2', packetSamples: own.packetSamples }
    return {
      ...(p.channels ? { channels: p.channels } : {}),
      sampleRate: p.sampleRate,
      packetSamples: p.packetSamples,
      bitDepth: 16,
      webCodec: `mp4a.40.${p.objectType}`,
    }
  },
  // the codec package goes by what it is told, not by the configuration: by what the coded core is
  decode: webSound('AAC', { told: (c) => (c ? (parseAudioSpecificConfig(c)?.core ?? null) : null) }),
  encode: {
    needsWeb: true,
    probe: { codec: 'mp4a.40.2', sampleRate: 48000, numberOfChannels: 2 },
    ...own,
    // half a second, in which the coder finds its rate
    open: (s, web) =>
      withRunIn(webSoundEncoder(needCodecs(web, 'AAC'), 'mp4a.40.2', s), { ...own, before: 24, after: 4 }),
  },
}
