import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ByteSource } from '../bytes'
import type { Media, VideoInfo, VideoTrack } from '../media/media'
import { makeRate } from '../time/rate'
import { canDecodePictures, openPictures } from './pictures'
import { uyvySize } from './uyvy/uyvy'
import type { WebCodecs } from './web/webcodecs'

// Coded pictures through a decoder of our own making: it gives out frames in display order, late, as real ones do.

const [width, height] = [4, 2]

/**
 * A track of groups: each in decode order by the display places of its frames; the first of a group is its sync sample.
 */
function trackOf(groups: readonly (readonly number[])[], codec = 'h264'): VideoTrack {
  const samples = groups.flatMap((g) => g.map((shown, i) => ({ shown, sync: i === 0 })))
  const info: VideoInfo = {
    codec,
    profile: null,
    level: null,
    width,
    height,
    rate: makeRate(25),
    constantRate: true,
    scan: 'progressive',
    chroma: '4:2:0',
    bitDepth: 8,
    pixelAspect: '1:1',
    colour: null,
    frames: samples.length,
    intra: false,
    webCodec: 'avc1.42001f',
  }
  return {
    info,
    timescale: 25,
    sampleCount: samples.length,
    configuration: null,
    native: null,
    sample: (i) =>
      ({ offset: i, size: 1, dts: i, pts: samples[i]!.shown, duration: 1, sync: samples[i]!.sync }) as ReturnType<
        VideoTrack['sample']
      >,
    sampleOfFrame: (n) => samples.findIndex((s) => s.shown === n),
    syncBefore(i) {
      while (i > 0 && !samples[i]!.sync) i--
      return i
    },
  }
}

interface Told {
  opened: number
  closed: number
  decoded: number[]
}

/**
 * A decoder that holds back up to `late` frames and gives them out by time; a chunk in `broken` gives nothing, one in
 * `fatal` stops it.
 */
function codecs(told: Told, late: number, broken: readonly number[] = [], fatal: readonly number[] = []): WebCodecs {
  class Decoder {
    state = 'unconfigured'
    decodeQueueSize = 0
    private held: number[] = []
    constructor(private readonly to: { output: (f: unknown) => void; error: (e: Error) => void }) {
      told.opened++
    }

    configure() {
      this.state = 'configured'
    }

    decode(chunk: { timestamp: number; at: number }) {
      told.decoded.push(chunk.at)
      if (fatal.includes(chunk.timestamp)) return this.to.error(new Error('no more'))
      if (!broken.includes(chunk.timestamp)) this.held.push(chunk.timestamp)
      this.held.sort((a, b) => a - b)
      while (this.held.length > late) this.give()
    }

    flush() {
      while (this.held.length) this.give()
      return Promise.resolve()
    }

    close() {
      this.state = 'closed'
      told.closed++
    }

    private give() {
      const timestamp = this.held.shift()!
      this.to.output({
        timestamp,
        format: 'I420',
        codedWidth: width,
        codedHeight: height,
        visibleRect: { width, height },
        allocationSize: () => 12,
        close: () => undefined,
        copyTo: (bytes: Uint8Array) => {
          bytes.fill(16 + timestamp, 0, 8)
          return Promise.resolve([
            { offset: 0, stride: 4 },
            { offset: 8, stride: 2 },
            { offset: 10, stride: 2 },
          ])
        },
      })
    }
  }
  const chunk = function (this: Record<string, unknown>, o: { timestamp: number; data: Uint8Array }) {
    this.timestamp = o.timestamp
    this.at = o.data[0]
  }
  return { VideoDecoder: Decoder, EncodedVideoChunk: chunk } as unknown as WebCodecs
}
const bytes: ByteSource = {
  name: 'reel.mov',
  size: 1000,
  read: (offset, length) => Promise.resolve(Uint8Array.from({ length }, (_, i) => offset + i)),
}
const mediaOf = (track: VideoTrack): Media => ({ source: bytes, video: [track], audio: [], info: {} as never })

async function shown(track: VideoTrack, web: WebCodecs | null, from: number, to: number): Promise<number[]> {
  const out: number[] = []
  for await (const { frame, picture } of openPictures(mediaOf(track), web).read({ in: from, out: to })) {
    expect(frame).toBe(from + out.length)
    out.push(picture.planes[0][0]! - 16)
  }
  return out
}
const fresh = (): Told => ({ opened: 0, closed: 0, decoded: [] })
/** Groups of eight: I0 P3 B1 B2 P6 B4 B5 P7, open ones begin with frames shown before their sync sample. */
const closedGroups = (n: number) => Array.from({ length: n }, (_, g) => [0, 3, 1, 2, 6, 4, 5, 7].map((p) => g * 8 + p))
const openGroups = [
  [0, 2, 1],
  [5, 3, 4, 7, 6],
  [10, 8, 9],
]

describe('coded pictures', () => {
  it('are the frames asked for, from any to any, however late the decoder gives them out (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 0, max: 23 }),
        fc.integer({ min: 0, max: 12 }),
        fc.integer({ min: 0, max: 9 }),
        async (from, n, late) => {
          const told = fresh()
          const to = Math.min(24, from + n)
          expect(await shown(trackOf(closedGroups(3)), codecs(told, late), from, to)).toEqual(
            Array.from({ length: to - from }, (_, i) => from + i),
          )
          expect(told.closed).toBe(told.opened)
        },
      ),
      { numRuns: 60 },
    )
  })
  it('begin to be decoded at the sync sample of the first, and end with the last needed', async () => {
    const told = fresh()
    await shown(trackOf(closedGroups(3)), codecs(told, 2), 9, 11)
    expect(told.decoded).toEqual([8, 9, 10, 11])
  })
  it('that lean on the group before an open one are decoded from there', async () => {
    const told = fresh()
    expect(await shown(trackOf(openGroups), codecs(told, 2), 3, 6)).toEqual([3, 4, 5])
    expect(told.decoded[0]).toBe(0)
    const later = fresh()
    expect(await shown(trackOf(openGroups), codecs(later, 2), 5, 8)).toEqual([5, 6, 7])
    expect(later.decoded[0]).toBe(3)
  })
  it('close their decoder when nobody wants more of them', async () => {
    const told = fresh()
    for await (const { frame } of openPictures(mediaOf(trackOf(closedGroups(3))), codecs(told, 1)).read({
      in: 0,
      out: 24,
    }))
      if (frame === 2) break
    expect([told.opened, told.closed]).toEqual([1, 1])
    expect(told.decoded.length).toBeLessThan(24)
  })
  it('end with a problem where one cannot be decoded', async () => {
    const told = fresh()
    await expect(shown(trackOf(closedGroups(1)), codecs(told, 1, [5]), 0, 8)).rejects.toMatchObject({
      problem: {
        code: 'media.undecodable',
        where: 'reel.mov, 00:00:00:05',
        message: 'The pictures cannot be decoded at frame 5 (no picture came).',
      },
    })
    expect(told.closed).toBe(1)
  })
  it('say that the decoder stopped, and leave none open', async () => {
    const told = fresh()
    await expect(shown(trackOf(closedGroups(2)), codecs(told, 1, [], [6]), 0, 16)).rejects.toMatchObject({
      problem: {
        code: 'media.undecodable',
        message: expect.stringMatching(/at frame \d+ \(The decoder stopped: no more\)/) as string,
      },
    })
    expect(told.closed).toBe(1)
  })
  it('need no decoder for none', async () => {
    const told = fresh()
    expect(await shown(trackOf(closedGroups(1)), codecs(told, 1), 4, 4)).toEqual([])
    expect(told.opened).toBe(0)
  })
})

describe('what can be decoded', () => {
  it('is what there are codecs for', () => {
    const web = codecs(fresh(), 0)
    expect(
      ['v210', 'uyvy', 'h264', 'hevc', 'vp9', 'vc-5'].map((c) => [
        canDecodePictures(c, null),
        canDecodePictures(c, web),
      ]),
    ).toEqual([
      [true, true],
      [true, true],
      [false, true],
      [false, true],
      [false, true],
      [false, false],
    ])
  })
  it('is said where there are none', () => {
    const problem = (track: VideoTrack, web: WebCodecs | null) => {
      try {
        openPictures(mediaOf(track), web)
      } catch (e) {
        return (e as { problem: { code: string } }).problem.code
      }
      return null
    }
    expect(problem(trackOf([[0]]), null)).toBe('codec.none')
    expect(problem(trackOf([[0]], 'vc-5'), codecs(fresh(), 0))).toBe('codec.unknown')
    expect(() => openPictures({ ...mediaOf(trackOf([[0]])), video: [] }, null)).toThrow(
      'There are no pictures in this file.',
    )
  })
  it('is not a frame with too few bytes', async () => {
    const track = trackOf([[0], [1]], 'uyvy')
    await expect(shown(track, null, 0, 2)).rejects.toMatchObject({
      problem: { code: 'media.short-frame', message: `Frame 0 has 1 bytes; 4×2 needs ${uyvySize(4, 2)}.` },
    })
  })
  it('is no picture of another size than the file says, where its stream says one in front', async () => {
    const avcC = '01640028ffe1001867640028acb403c0113f2c20000003002000000651e3065401000468ef3cb0'
    const track = trackOf([[0]])
    const large = { ...track, info: { ...track.info, width: 1920, height: 1080 } }
    const told = { ...large, configuration: Uint8Array.from(Buffer.from(avcC, 'hex')) }
    await expect(shown(told, codecs(fresh(), 0), 0, 1)).rejects.toMatchObject({
      problem: { code: 'media.undecodable', message: 'Frame 0 is of 4×2 where the file is of 1920×1080.' },
    })
    expect(await shown(large, codecs(fresh(), 0), 0, 1)).toHaveLength(1)
  })
})
