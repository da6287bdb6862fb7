import { readExactly } from '../../bytes'
import type { AudioTrack, Media } from '../../media/media'
import { fail, ProblemError } from '../../problem'
import { lastAtOrBefore } from '../../time/order'
import type { Samples } from '../../time/rate'
import type { SoundCodec, TrackReader } from '../codec'
import { silence } from '../silence'
import { Backlog } from './backlog'
import { needCodecs, type WebCodecs } from './webcodecs'

/** What is known of a decoder. */
interface Way {
  readonly label: string
  /** It gives what is in each packet by itself, in their order, but at times that are not theirs. */
  readonly counted?: boolean
  /** What it is told by the configuration, where that is not what it gives. */
  told?(configuration: Uint8Array | null): { readonly sampleRate: number; readonly channels: number } | null
}

/** Decoding of a sound codec through the W3C WebCodecs interface. */
export function webSound(label: string, more: Omit<Way, 'label'> = {}): SoundCodec['decode'] {
  return { needsWeb: true, open: (media, track, codecs) => codedReader(media, track, codecs, { label, ...more }) }
}

/** Decoded samples from media sample `at` on. */
interface Stretch {
  readonly at: Samples
  readonly data: Float32Array[]
}

/** Decodes coded packets from a little before the range; keeps what was decoded while reads follow on. */
function codedReader(media: Media, track: AudioTrack, codecs: WebCodecs | null, way: Way): TrackReader {
  const { channels, sampleRate, codec } = track.info
  if (!track.info.webCodec)
    fail(
      'codec.unknown',
      `Sound of kind “${codec}” cannot be decoded here.`,
      media.source.name,
      'Ask for PCM sound, or for the file anew.',
    )
  const web = needCodecs(codecs, way.label)
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
      const fresh = await decodePackets(media, track, [first, last], web, way)
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
  /** Of the packets that were fed, those whose samples have not come: where each begins; null where times tell. */
  readonly due: Samples[] | null
}

/** A decoder that gives into what it is told to; its callbacks may not lead back to it, as with that of pictures. */
function decoderInto(given: Given, web: WebCodecs): AudioDecoder {
  const decoder = new web.AudioDecoder({
    output: (audio) => {
      const { into, at, sampleRate, due } = given
      try {
        if (audio.sampleRate !== sampleRate) otherRate(audio, sampleRate)
        const begins = due ? due.shift() : Math.round((audio.timestamp * sampleRate) / 1e6)
        if (into && begins !== undefined) copySamples(audio, into, begins - at)
      } catch (e) {
        given.backlog.failed(e as Error)
      }
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
  [first, last]: readonly [number, number],
  web: WebCodecs,
  { counted, told }: Way,
): Promise<Stretch> {
  const { channels, sampleRate } = track.info
  const lastPacket = track.packet(last)
  const at = track.packet(first).pts
  const data = silence(channels, lastPacket.pts + lastPacket.duration - at)
  const given: Given = { into: data, at, sampleRate, backlog: new Backlog(), due: counted ? [] : null }
  const decoder = decoderInto(given, web)
  const core = told?.(track.configuration)
  try {
    decoder.configure({
      codec: track.info.webCodec!,
      sampleRate: core?.sampleRate ?? sampleRate,
      numberOfChannels: core?.channels || channels,
      ...(track.configuration ? { description: track.configuration } : {}),
    })
    for (let i = first; i <= last; i++) {
      const p = track.packet(i)
      given.due?.push(p.pts)
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
    // where one gives nothing, nobody knows which of them it was
    if (given.due?.length) throw new Error('The sound decoder left packets out')
  } catch (e) {
    if (e instanceof ProblemError) throw e
    // what it stopped with, not that it is closed since
    const cause = given.backlog.error ?? (e as Error)
    const seconds = (Math.max(0, at - track.start) / sampleRate).toFixed(2)
    fail(
      'media.undecodable',
      `The sound cannot be decoded from ${seconds} s on (${cause.message.replace(/\.$/, '')}).`,
      media.source.name,
      'The file is damaged there; copy it again from where it came from.',
    )
  } finally {
    given.into = null
    if (decoder.state !== 'closed') decoder.close()
  }
  return { at, data }
}

const otherRate = (audio: AudioData, sampleRate: number): never => {
  throw new Error(`The sound decoder gives ${audio.sampleRate} Hz, where the file says ${sampleRate} Hz.`)
}

const unknownKind = ({ format }: AudioData): never => {
  throw new Error(`The sound decoder gives samples of kind “${format}”.`)
}

/** What decoders give samples as (W3C WebCodecs, AudioSampleFormat), and the value of a sample. */
const formats = {
  u8: [Uint8Array, (v: number) => (v - 128) / 128],
  s16: [Int16Array, (v: number) => v / 32_768],
  s32: [Int32Array, (v: number) => v / 2_147_483_648],
  f32: [Float32Array, (v: number) => v],
} as const

/**
 * Copies what a decoder gave to `offset` of each channel, as far as it lies inside. It is taken as it is and converted
 * here: the codec package aborts the process where it is asked to take interleaved samples apart.
 */
function copySamples(audio: AudioData, into: readonly Float32Array[], offset: number): void {
  const n = Math.min(audio.numberOfFrames, into[0]!.length - offset)
  if (n <= 0 || offset < 0) return
  const { numberOfChannels, numberOfFrames } = audio
  const [kind, planar] = (audio.format ?? '').split('-')
  const [Values, value] = formats[kind as keyof typeof formats] ?? unknownKind(audio)
  const all = planar ? null : new Values(numberOfFrames * numberOfChannels)
  if (all) audio.copyTo(all, { planeIndex: 0 })
  for (let c = 0; c < Math.min(into.length, numberOfChannels); c++) {
    const plane = all ?? new Values(numberOfFrames)
    if (!all) audio.copyTo(plane, { planeIndex: c })
    const [first, step] = all ? [c, numberOfChannels] : [0, 1]
    const out = into[c]!
    for (let i = 0; i < n; i++) out[offset + i] = value(plane[first + i * step]!)
  }
}
