import { readExactly } from '../../bytes'
import type { AudioTrack, Media } from '../../media/media'
import { fail } from '../../problem'
import { lastAtOrBefore } from '../../time/order'
import type { Samples } from '../../time/rate'
import type { SoundCodec, TrackReader } from '../codec'
import { silence } from '../silence'
import { needCodecs, settle, type WebCodecs } from './webcodecs'

/** Decoding of a sound codec through the W3C WebCodecs interface. */
export function webSound(label: string): SoundCodec['decode'] {
  return { needsWeb: true, open: (media, track, codecs) => codedReader(media, track, codecs, label) }
}

/** Decodes coded packets from a little before the range; keeps what was decoded while reads follow on. */
function codedReader(media: Media, track: AudioTrack, codecs: WebCodecs | null, label: string): TrackReader {
  const { channels, sampleRate, codec } = track.info
  if (!track.info.webCodec)
    fail(
      'codec.unknown',
      `Sound of kind “${codec}” cannot be decoded here.`,
      media.source.name,
      'Ask for PCM sound, or for the file anew.',
    )
  const web = needCodecs(codecs, label)
  const starts = new Float64Array(track.packetCount)
  for (let i = 0; i < starts.length; i++) starts[i] = track.packet(i).pts
  const packetAt = (sample: Samples) => Math.max(0, lastAtOrBefore(starts, sample))
  /** Decoded stretch kept from the last read: media samples [at, at + length). */
  let kept: { at: Samples; data: Float32Array[] } | null = null

  async function decode(first: number, last: number): Promise<{ at: Samples; data: Float32Array[] }> {
    const lastPacket = track.packet(last)
    const at = starts[first]!
    const data = silence(channels, lastPacket.pts + lastPacket.duration - at)
    let error: Error | null = null
    const decoder = new web.AudioDecoder({
      output: (audio) => {
        const offset = Math.round((audio.timestamp * sampleRate) / 1e6) - at
        const n = Math.min(audio.numberOfFrames, data[0]!.length - offset)
        const plane = new Float32Array(audio.numberOfFrames)
        for (let c = 0; c < Math.min(channels, audio.numberOfChannels); c++) {
          audio.copyTo(plane, { planeIndex: c, format: 'f32-planar' })
          if (n > 0 && offset >= 0) data[c]!.set(plane.subarray(0, n), offset)
        }
        audio.close()
      },
      error: (e) => {
        error ??= new Error(`The sound decoder stopped: ${e.message}`)
      },
    })
    try {
      decoder.configure({
        codec: track.info.webCodec!,
        sampleRate,
        numberOfChannels: channels,
        ...(track.configuration ? { description: track.configuration } : {}),
      })
      for (let i = first; i <= last; i++) {
        const p = track.packet(i)
        decoder.decode(
          new web.EncodedAudioChunk({
            type: 'key',
            timestamp: Math.round((p.pts / sampleRate) * 1e6),
            data: await readExactly(media.source, p.offset, p.size),
          }),
        )
        if (decoder.decodeQueueSize > 64)
          await settle(
            () => decoder.decodeQueueSize < 32,
            () => error,
          )
      }
      await decoder.flush()
    } finally {
      if (decoder.state !== 'closed') decoder.close()
    }
    if (error) throw error
    return { at, data }
  }

  return async (from, count) => {
    const out = silence(channels, count)
    if (track.packetCount === 0) return out
    const begin = Math.max(0, from) + track.start
    const end = Math.min(from + count, track.info.samples) + track.start
    if (end <= begin) return out
    if (!kept || begin < kept.at || end > kept.at + kept.data[0]!.length) {
      // two packets of run-in let the overlapped transform settle; reading ahead keeps small reads cheap
      const first = Math.max(0, packetAt(begin) - 3)
      const last = packetAt(Math.max(end, begin + 2 * sampleRate))
      const fresh = await decode(first, last)
      const skip = first === 0 ? 0 : starts[Math.min(first + 2, starts.length - 1)]! - fresh.at
      kept = { at: fresh.at + skip, data: fresh.data.map((d) => d.subarray(skip)) }
    }
    for (let c = 0; c < channels; c++)
      out[c]!.set(kept.data[c]!.subarray(begin - kept.at, end - kept.at), Math.max(0, -from))
    return out
  }
}
