import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ByteSource } from '../bytes'
import type { AudioTrack, Media } from '../media/media'
import { encodePcm } from './pcm/pcm'
import { openChannels, openSound, openTracks } from './sound'
import type { WebCodecs } from './web/webcodecs'

const source = (bytes: Uint8Array): ByteSource => ({
  name: 'mix.mov',
  size: bytes.length,
  read: (offset, length) => Promise.resolve(bytes.slice(offset, offset + length)),
})
const mediaOf = (bytes: Uint8Array, audio: readonly AudioTrack[]): Media => ({
  source: source(bytes),
  video: [],
  audio,
  info: {} as never,
})
const info = (channels: number, samples: number, more: Partial<AudioTrack['info']> = {}): AudioTrack['info'] => ({
  codec: 'pcm',
  channels,
  sampleRate: 48000,
  bitDepth: 24,
  samples,
  layout: null,
  webCodec: null,
  ...more,
})

/** A PCM track of 24-bit samples laid down in chunks, each followed by a few bytes that are not its own. */
function pcmTrack(channels: Float32Array[], chunk: number, at: number): { bytes: Uint8Array; track: AudioTrack } {
  const n = channels[0]!.length
  const frame = channels.length * 3
  const gap = 5
  const bytes = new Uint8Array(Math.ceil(n / chunk) * (chunk * frame + gap)).fill(0x55)
  for (let k = 0; k * chunk < n; k++)
    bytes.set(
      encodePcm(
        channels.map((c) => c.slice(k * chunk, (k + 1) * chunk)),
        24,
        true,
      ),
      k * (chunk * frame + gap),
    )
  const track: AudioTrack = {
    info: info(channels.length, n),
    start: 0,
    pcm: { bytesPerSample: 3, kind: 'int', littleEndian: true, channels: channels.length },
    packetCount: 0,
    packet: () => ({ offset: 0, size: 0, pts: 0, duration: 0 }),
    configuration: null,
    native: null,
    run: (s) => ({
      offset: at + Math.floor(s / chunk) * (chunk * frame + gap) + (s % chunk) * frame,
      samples: Math.min(chunk - (s % chunk), n - s),
    }),
  }
  return { bytes, track }
}
/** Sample i of a channel: a number of its own that 24 bits hold exactly. */
const ramp = (n: number, c: number) => Float32Array.from({ length: n }, (_, i) => (i * 8 + c) / 2 ** 23)

describe('PCM sound', () => {
  it('is every sample of every track, silent outside (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: -40, max: 260 }),
        fc.integer({ min: 0, max: 200 }),
        async (chunk, from, count) => {
          const [one, two] = [[ramp(200, 0), ramp(200, 1)], [ramp(150, 2)]]
          const a = pcmTrack(one, chunk, 0)
          const b = pcmTrack(two, 64, a.bytes.length)
          const sound = openSound(mediaOf(Uint8Array.from([...a.bytes, ...b.bytes]), [a.track, b.track]), null)!
          expect([sound.channels, sound.samples]).toEqual([3, 200])
          const want = [...one, ...two].map((c) => Array.from({ length: count }, (_, i) => c[from + i] ?? 0))
          expect((await sound.read(from, count)).map((c) => [...c])).toEqual(want)
        },
      ),
      { numRuns: 80 },
    )
  })
  it('of tracks at another rate than most, or of a kind nobody knows, is closed: the others are read', async () => {
    const [other, most] = [pcmTrack([ramp(10, 0)], 10, 0), pcmTrack([ramp(10, 1), ramp(10, 2)], 10, 40)]
    const bytes = Uint8Array.from([...other.bytes, ...new Uint8Array(5), ...most.bytes])
    const slow = { ...other.track, info: { ...other.track.info, sampleRate: 44_100 } }
    const unknown = { ...other.track, info: { ...other.track.info, codec: 'ac-3' } }
    const sound = openSound(mediaOf(bytes, [slow, most.track, unknown]), null)!
    expect([sound.channels, sound.sampleRate, [...sound.closed!.keys()]]).toEqual([4, 48_000, [0, 3]])
    expect([openChannels(sound), openTracks([slow, most.track, unknown].map((t) => t.info))]).toEqual([
      [1, 2],
      [most.track.info],
    ])
    const [first, a, b, last] = await sound.read(2, 5, [1, 2])
    expect([first, last].map((c) => [...c!])).toEqual([Array(5).fill(0), Array(5).fill(0)])
    expect([a, b].map((c) => [...c!])).toEqual([1, 2].map((c) => [...ramp(10, c).slice(2, 7)]))
    await expect(sound.read(2, 5)).rejects.toThrow('Channel 1 runs at 44.1 kHz, others at 48 kHz.')
    await expect(sound.read(2, 5, [1, 3])).rejects.toThrow('Sound of kind “ac-3” cannot be decoded here.')
    expect(() => openChannels({ channels: 1, closed: new Map([[0, sound.closed!.get(3)!]]) })).toThrow('ac-3')
  })
  it('of a file without any is none', () => {
    expect(openSound(mediaOf(new Uint8Array(4), []), null)).toBeNull()
  })
})

interface Told {
  rate?: number
  opened: number
  closed: number
  packets: number
}
const packetLength = 100
/**
 * A decoder whose packet p gives samples p·100 … of a ramp; what comes first after a start is not yet right, as with
 * overlapped transforms.
 */
function codecs(told: Told, fatal = -1): WebCodecs {
  class Decoder {
    state = 'unconfigured'
    decodeQueueSize = 0
    private first = true
    constructor(private readonly to: { output: (a: unknown) => void; error: (e: Error) => void }) {
      told.opened++
    }

    configure() {
      this.state = 'configured'
    }

    decode(chunk: { timestamp: number }) {
      told.packets++
      const at = Math.round((chunk.timestamp * 48000) / 1e6)
      if (at === fatal) return this.to.error(new Error('bad packet'))
      const settled = !this.first
      this.first = false
      this.to.output({
        timestamp: chunk.timestamp,
        format: 'f32-planar',
        sampleRate: told.rate ?? 48_000,
        numberOfFrames: packetLength,
        numberOfChannels: 1,
        close: () => undefined,
        copyTo: (plane: Float32Array) => void plane.forEach((_, i) => (plane[i] = settled || at === 0 ? at + i : -1)),
      })
    }

    flush() {
      return Promise.resolve()
    }

    close() {
      this.state = 'closed'
      told.closed++
    }
  }
  const chunk = function (this: Record<string, unknown>, o: { timestamp: number }) {
    this.timestamp = o.timestamp
  }
  return { AudioDecoder: Decoder, EncodedAudioChunk: chunk } as unknown as WebCodecs
}
/** `priming` samples come before the first one presented. */
const codedTrack = (packets: number, priming: number): AudioTrack => ({
  info: info(1, packets * packetLength - priming, { codec: 'aac', webCodec: 'mp4a.40.2' }),
  start: priming,
  pcm: null,
  packetCount: packets,
  packet: (i) => ({ offset: i, size: 1, pts: i * packetLength, duration: packetLength }),
  run: () => ({ offset: 0, samples: 0 }),
  configuration: null,
  native: null,
})
const fresh = (): Told => ({ opened: 0, closed: 0, packets: 0 })

describe('coded sound', () => {
  it('is every sample from the first presented on, silent outside, in any order of reading (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 0, max: 250 }),
        fc.array(fc.tuple(fc.integer({ min: -50, max: 3100 }), fc.integer({ min: 0, max: 400 })), {
          minLength: 1,
          maxLength: 5,
        }),
        async (priming, reads) => {
          const told = fresh()
          const sound = openSound(mediaOf(new Uint8Array(40), [codedTrack(30, priming)]), codecs(told))!
          for (const [from, count] of reads) {
            const [got] = await sound.read(from, count)
            expect([...got!]).toEqual(
              Array.from({ length: count }, (_, i) =>
                from + i >= 0 && from + i < sound.samples ? from + i + priming : 0,
              ),
            )
          }
          expect(told.closed).toBe(told.opened)
        },
      ),
      { numRuns: 60 },
    )
  })
  it('read on from where it was is decoded once', async () => {
    const told = fresh()
    const sound = openSound(mediaOf(new Uint8Array(40), [codedTrack(30, 0)]), codecs(told))!
    for (let at = 0; at < 3000; at += 250) await sound.read(at, 250)
    expect([told.opened, told.packets]).toEqual([1, 30])
  })
  it('says that its decoder stopped, and leaves none open', async () => {
    const told = fresh()
    const sound = openSound(mediaOf(new Uint8Array(40), [codedTrack(30, 0)]), codecs(told, 700))!
    await expect(sound.read(0, 1000)).rejects.toThrow('The sound decoder stopped: bad packet')
    expect(told.closed).toBe(1)
  })
  it('is refused where the decoder gives another rate than the file says', async () => {
    const sound = openSound(mediaOf(new Uint8Array(40), [codedTrack(30, 0)]), codecs({ ...fresh(), rate: 96_000 }))!
    await expect(sound.read(0, 100)).rejects.toThrow('gives 96000 Hz, where the file says 48000 Hz')
  })
  it('needs codecs once it is read, and nothing is decoded of tracks that nobody wants', async () => {
    const alone = openSound(mediaOf(new Uint8Array(4), [codedTrack(3, 0)]), null)!
    await expect(alone.read(0, 10)).rejects.toThrow('AAC cannot be decoded')
    const told = fresh()
    const plain = pcmTrack([ramp(300, 0)], 300, 0)
    const two = openSound(mediaOf(plain.bytes, [plain.track, codedTrack(3, 0)]), codecs(told))!
    expect([...(await two.read(0, 3, [0]))[0]!]).toEqual([...ramp(3, 0)])
    expect(told.opened).toBe(0)
    await two.read(0, 3, [1])
    expect(told.opened).toBe(1)
  })
  it('that has no packets is silent', async () => {
    const sound = openSound(mediaOf(new Uint8Array(4), [codedTrack(0, 0)]), codecs(fresh()))!
    expect(await sound.read(0, 3)).toEqual([new Float32Array(3)])
  })
})
