import { readExactly } from '../../bytes'
import type { AudioTrack, Media } from '../../media/media'
import type { SoundCodec, TrackReader } from '../codec'
import { silence } from '../silence'
import { decodePcm } from './pcm'

function reader(media: Media, track: AudioTrack): TrackReader {
  const layout = track.pcm!
  const frame = layout.bytesPerSample * layout.channels
  return async (from, count) => {
    const out = silence(track.info.channels, count)
    let at = Math.max(0, from)
    const end = Math.min(from + count, track.info.samples)
    while (at < end) {
      const run = track.run(track.start + at)
      const n = Math.min(run.samples, end - at, 1 << 18)
      if (n <= 0) break
      const part = decodePcm(await readExactly(media.source, run.offset, n * frame), layout)
      for (let c = 0; c < out.length; c++) out[c]!.set(part[c]!, at - from)
      at += n
    }
    return out
  }
}

/** Linear PCM: integers and floats of either byte order. How a file lays it out is in its track's `pcm`. */
export const pcm: SoundCodec = {
  name: 'pcm',
  label: 'PCM',
  keepsDepth: true,
  calls: {
    mp4: { entries: ['in24', 'sowt', 'twos', 'in32', 'fl32', 'fl64', 'raw ', 'lpcm', 'ipcm', 'fpcm'] },
    matroska: { entries: ['A_PCM/INT/LIT', 'A_PCM/INT/BIG', 'A_PCM/FLOAT/IEEE'] },
  },
  describe: () => ({}),
  decode: { needsWeb: false, open: reader },
}
