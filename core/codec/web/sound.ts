import { readExactly } from '../../bytes'
import type { AudioTrack, Media } from '../../media/media'
import { fail, ProblemError } from '../../problem'
import { lastAtOrBefore } from '../../time/order'
import type { Samples } from '../../time/rate'
import type { SoundCodec, TrackReader } from '../codec'
import { silence } from '../silence'
import { Backlog } from './backlog'
import { needCodecs, type WebCodecs } from './webcodecs'

/** Decoding of a sound codec through the W3C WebCodecs interface. */
export function webSound(label: string): SoundCodec['decode'] {
  return { needsWeb: true, open: (media, track, codecs) => codedReader(media, track, codecs, label) }
}

/** Decoded samples from media sample `at` on. */
interface Stretch {
  readonly at: Samples
  readonly data: Float32Array[]
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
  let kept: Stretch | null = null
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
      const fresh = await decodePackets(media, track, first, last, web)
      const skip = first === 0 ? 0 : starts[Math.min(first + 2, starts.length - 1)]! - fresh.at
      kept = { at: fresh.at + skip, data: fresh.data.map((d) => d.subarray(skip)) }
    }
    for (let c = 0; c < channels; c++)
      out[c]!.set(kept.data[c]!.subarray(begin - kept.at, end - kept.at), Math.max(0, -from))
    return out
  }
}

/** Where a decoder lays its samples: nowhere, once it is closed. */
interface Given {
  into: readonly Float32Array[] | null
  /** The media sample that the first of `into` is. */
  readonly at: Samples
  readonly sampleRate: number
  readonly backlog: Backlog
}

/** A decoder that gives into what it is told to; its callbacks may not lead back to it, as with that of pictures. */
function decoderInto(given: Given, web: WebCodecs): AudioDecoder {
  const decoder = new web.AudioDecoder({
    output: (audio) => {
      const { into, at, sampleRate } = given
      if (into) copySamples(audio, into, Math.round((audio.timestamp * sampleRate) / 1e6) - at)
      audio.close()
    },
    error: (e) => given.backlog.failed(new Error(`The sound decoder stopped: ${e.message}`)),
  })
  decoder.ondequeue = given.backlog.dequeued
  return decoder
}

/** Decodes packets [first, last] of a track. */
async function decodePackets(
  media: Media,
  track: AudioTrack,
  first: number,
  last: number,
  web: WebCodecs,
): Promise<Stretch> {
  const { channels, sampleRate } = track.info
  const lastPacket = track.packet(last)
  const at = track.packet(first).pts
  const data = silence(channels, lastPacket.pts + lastPacket.duration - at)
  const given: Given = { into: data, at, sampleRate, backlog: new Backlog() }
  const decoder = decoderInto(given, web)
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
      given.backlog.add()
      await given.backlog.below(64, () => decoder.decodeQueueSize)
    }
    await decoder.flush()
    if (given.backlog.error) throw given.backlog.error
  } catch (e) {
    if (e instanceof ProblemError) throw e
    const seconds = (Math.max(0, at - track.start) / sampleRate).toFixed(2)
    fail(
      'media.undecodable',
      `The sound cannot be decoded from ${seconds} s on (${(e as Error).message.replace(/\.$/, '')}).`,
      media.source.name,
      'The file is damaged there; copy it again from where it came from.',
    )
  } finally {
    given.into = null
    if (decoder.state !== 'closed') decoder.close()
  }
  return { at, data }
}

/** Copies what a decoder gave to `offset` of each channel, as far as it lies inside. */
function copySamples(audio: AudioData, into: readonly Float32Array[], offset: number): void {
  const n = Math.min(audio.numberOfFrames, into[0]!.length - offset)
  const plane = new Float32Array(audio.numberOfFrames)
  for (let c = 0; c < Math.min(into.length, audio.numberOfChannels); c++) {
    audio.copyTo(plane, { planeIndex: c, format: 'f32-planar' })
    if (n > 0 && offset >= 0) into[c]!.set(plane.subarray(0, n), offset)
  }
}
