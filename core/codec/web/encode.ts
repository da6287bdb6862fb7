import { i420Bytes, type Picture } from '../../picture/picture'
import { nominalRate, type Samples } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import type { EncodedUnit, Encoder, PictureEncoderSettings, SoundEncoderSettings } from '../codec'
import { Backlog } from './backlog'
import type { WebCodecs } from './webcodecs'

/** What comes out of an encoder of the W3C WebCodecs interface, kept until it is taken. */
function collector(what: string) {
  let units: EncodedUnit[] = []
  let configuration: Uint8Array | null = null
  const backlog = new Backlog()
  return {
    backlog,
    output(chunk: EncodedVideoChunk | EncodedAudioChunk, meta?: EncodedVideoChunkMetadata | EncodedAudioChunkMetadata) {
      const bytes = new Uint8Array(chunk.byteLength)
      chunk.copyTo(bytes)
      units.push({ bytes, sync: chunk.type === 'key' })
      const d = meta?.decoderConfig?.description
      if (d) configuration ??= Uint8Array.from(d instanceof Uint8Array ? d : new Uint8Array(d as ArrayBuffer))
    },
    error: (e: Error) => backlog.failed(new Error(`${what} stopped: ${e.message}`)),
    ends: (encoder: VideoEncoder | AudioEncoder) => ({
      take() {
        const ready = units
        units = []
        return ready
      },
      configuration: () => configuration,
      async flush() {
        await encoder.flush()
        if (backlog.error) throw backlog.error
      },
      close: () => encoder.state !== 'closed' && encoder.close(),
    }),
  }
}

/** Encodes pictures in groups of a second, each of which begins with a sync sample. */
export function webPictureEncoder(web: WebCodecs, codec: string, s: PictureEncoderSettings): Encoder<Picture> {
  const out = collector('The encoder')
  const encoder = new web.VideoEncoder({ output: out.output, error: out.error })
  encoder.ondequeue = out.backlog.dequeued
  encoder.configure({
    codec,
    width: s.width,
    height: s.height,
    bitrate: s.bitrate,
    framerate: s.rate.num / s.rate.den,
    latencyMode: s.hurry ? 'realtime' : 'quality',
    avc: { format: 'avc' },
  })
  const group = nominalRate(s.rate)
  let n = 0
  return {
    async feed(picture) {
      const input = new web.VideoFrame(i420Bytes(picture), {
        format: 'I420',
        codedWidth: s.width,
        codedHeight: s.height,
        timestamp: mulDivRound(n * 1_000_000, s.rate.den, s.rate.num),
        duration: mulDivRound(1_000_000, s.rate.den, s.rate.num),
      })
      encoder.encode(input, { keyFrame: n++ % group === 0 })
      input.close()
      out.backlog.add()
      await out.backlog.below(6, () => encoder.encodeQueueSize)
    },
    ...out.ends(encoder),
  }
}

/** Encodes sound, fed in blocks of any length. */
export function webSoundEncoder(web: WebCodecs, codec: string, s: SoundEncoderSettings): Encoder<Float32Array[]> {
  const out = collector('The sound encoder')
  const encoder = new web.AudioEncoder({ output: out.output, error: out.error })
  encoder.ondequeue = out.backlog.dequeued
  encoder.configure({ codec, sampleRate: s.sampleRate, numberOfChannels: s.channels, bitrate: s.bitrate })
  let at: Samples = 0
  return {
    async feed(channels) {
      const count = channels[0]?.length ?? 0
      const data = new Float32Array(count * s.channels)
      channels.forEach((c, i) => data.set(c, i * count))
      const input = new web.AudioData({
        format: 'f32-planar',
        sampleRate: s.sampleRate,
        numberOfFrames: count,
        numberOfChannels: s.channels,
        timestamp: mulDivRound(at, 1_000_000, s.sampleRate),
        data,
      })
      at += count
      encoder.encode(input)
      input.close()
      out.backlog.add()
      await out.backlog.below(16, () => encoder.encodeQueueSize)
    },
    ...out.ends(encoder),
  }
}
