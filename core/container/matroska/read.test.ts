import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, Writer } from '../../bytes'
import { ProblemError } from '../../problem'
import { openMedia } from '../registry'

/** An EBML element: its number as bytes, an eight-byte size, its parts (RFC 8794). */
const element = (id: number[], ...parts: Uint8Array[]) => {
  const body = concatBytes(parts)
  return concatBytes([Uint8Array.from(id), new Writer().u8(0x01).u24(0).u32(body.length).bytes(), body])
}
const number = (id: number[], v: number) => element(id, new Writer().u32(v).bytes())
const text = (id: number[], v: string) => element(id, new TextEncoder().encode(v))
const float = (id: number[], v: number) => {
  const b = new Uint8Array(8)
  new DataView(b.buffer).setFloat64(0, v)
  return element(id, b)
}
const track = (n: number, kind: number, codec: string, ...more: Uint8Array[]) =>
  element([0xae], number([0xd7], n), number([0x83], kind), text([0x86], codec), ...more)
const simple = (n: number, time: number, flags: number, data: Uint8Array) =>
  element(
    [0xa3],
    new Writer()
      .u8(0x80 | n)
      .u16(time)
      .u8(flags)
      .bytes(),
    data,
  )

const video = track(
  1,
  1,
  'V_VP9',
  number([0x23, 0xe3, 0x83], 40_000_000),
  element([0xe0], number([0xb0], 64), number([0xba], 36)),
)
const pcm = track(
  2,
  2,
  'A_PCM/INT/LIT',
  element([0xe1], float([0xb5], 48000), number([0x9f], 2), number([0x62, 0x64], 16)),
)
const chapters = element(
  [0x10, 0x43, 0xa7, 0x70],
  element(
    [0x45, 0xb9],
    element(
      [0xb6],
      element([0x91], new Writer().u64(1_500_000_000).bytes()),
      element([0x80], text([0x85], 'Fog Bell')),
    ),
  ),
)
const header = element([0x1a, 0x45, 0xdf, 0xa3], text([0x42, 0x82], 'webm'))
const segment = (...parts: Uint8Array[]) => segmentOf(video, ...parts)
const segmentOf = (pictures: Uint8Array, ...parts: Uint8Array[]) =>
  concatBytes([
    header,
    element(
      [0x18, 0x53, 0x80, 0x67],
      element([0x15, 0x49, 0xa9, 0x66], number([0x2a, 0xd7, 0xb1], 1_000_000)),
      element([0x16, 0x54, 0xae, 0x6b], pictures, pcm),
      ...parts,
    ),
  ])
const cluster = (time: number, ...blocks: Uint8Array[]) =>
  element([0x1f, 0x43, 0xb6, 0x75], number([0xe7], time), ...blocks)
const picture = (n: number) => Uint8Array.of(n, 9, 9, 9)
const file = segment(
  cluster(
    0,
    simple(1, 0, 0x80, picture(0)),
    simple(2, 0, 0x80, new Uint8Array(192 * 4)),
    simple(1, 80, 0, picture(2)),
    simple(1, 40, 0, picture(1)),
  ),
  cluster(
    120,
    element([0xa0], element([0xa1], new Writer().u8(0x81).u16(0).u8(0).bytes(), picture(3)), number([0xfb], 1)),
    simple(1, 40, 0x80, picture(4)),
  ),
  chapters,
)
const open = (bytes: Uint8Array) => openMedia(memorySource(bytes, 'x.webm'))

describe('Matroska and WebM (RFC 9559)', () => {
  it('tells tracks, rate, frames in order of display, and chapters', async () => {
    const m = await open(file)
    expect(m.info).toMatchObject({
      container: 'webm',
      durationFrames: 5,
      video: [{ codec: 'vp9', width: 64, height: 36, rate: { num: 25, den: 1 }, constantRate: true }],
      audio: [{ codec: 'pcm', channels: 2, samples: 192 }],
      chapters: [{ at: 1_500_000, timescale: 1_000_000, name: 'Fog Bell' }],
      problems: [],
    })
    const v = m.video[0]!
    const first = async (n: number) => (await m.source.read(v.sample(v.sampleOfFrame(n)).offset, 1))[0]
    expect(await Promise.all([0, 1, 2, 3, 4].map(first))).toEqual([0, 1, 2, 3, 4])
    expect([0, 1, 2, 3, 4].map((i) => v.sample(i).sync)).toEqual([true, false, false, false, true])
    expect([v.syncBefore(3), v.syncBefore(4)]).toEqual([0, 4])
  })
  it('tells shape, scan and colour as the track states them, and what nobody states', async () => {
    const said = async (codec: string, ...more: Uint8Array[]) => {
      const size = [number([0xb0], 720), number([0xba], 576)]
      const pictures = track(1, 1, codec, number([0x23, 0xe3, 0x83], 40_000_000), element([0xe0], ...size, ...more))
      const { info } = await open(segmentOf(pictures, cluster(0, simple(1, 0, 0x80, picture(0)))))
      return { ...info.video[0]!, codes: info.problems.map((p) => p.code) }
    }
    const wide = [number([0x54, 0xb0], 1024), number([0x54, 0xba], 576)]
    expect(await said('V_OTHER', ...wide)).toMatchObject({
      ...{ pixelAspect: '64:45', scan: 'progressive', untold: ['scan', 'chroma', 'bitDepth'], codes: [] },
    })
    const fields = (order: number) => [number([0x9a], 1), number([0x9d], order)]
    expect([(await said('V_OTHER', ...fields(14))).scan, (await said('V_OTHER', ...fields(6))).scan]).toEqual([
      ...['interlaced-tff', 'interlaced-bff'],
    ])
    expect((await said('V_OTHER', number([0x9a], 2))).untold).toEqual(['chroma', 'bitDepth'])
    // a range alone, of a codec that states nothing itself
    const colour = element([0x55, 0xb0], number([0x55, 0xb9], 2))
    expect((await said('V_VP8', colour)).colour).toEqual({ primaries: 2, transfer: 2, matrix: 2, fullRange: true })
    // HEVC without a configuration tells nothing of its fields
    expect((await said('V_MPEGH/ISO/HEVC', ...wide)).codes).toEqual(['media.scan-untold'])
  })
  it.each([
    ['Xiph', 0x02, [2, 3, 4], [3, 4, 2]],
    ['EBML', 0x06, [2, 0x83, 0xc0], [3, 4, 2]],
    ['fixed', 0x04, [2], [3, 3, 3]],
  ])('unlaces %s lacing', async (_, flags, lace, sizes) => {
    const v = (
      await open(segment(cluster(0, simple(1, 0, 0x80 | flags, Uint8Array.from([...lace, 0, 1, 2, 3, 4, 5, 6, 7, 8])))))
    ).video[0]!
    expect(Array.from({ length: v.sampleCount }, (_, i) => v.sample(i).size)).toEqual(sizes)
    expect(v.sample(1).offset - v.sample(0).offset).toBe(sizes[0])
  })
  it('places laced packets evenly, ends with the last block, and leaves out what is not heard', async () => {
    const sound = track(3, 2, 'A_VORBIS', element([0xe1], float([0xb5], 48000), number([0x9f], 2)))
    const laced = (time: number) => simple(3, time, 0x84, Uint8Array.from([3, ...new Array<number>(8).fill(1)]))
    const last = element(
      [0xa0],
      element([0xa1], new Writer().u8(0x83).u16(400).u8(0).bytes(), picture(0)),
      number([0x9b], 40),
      number([0x75, 0xa2], 10_000_000),
    )
    const { audio, info } = await open(segmentOf(sound, cluster(0, laced(0), laced(200), last)))
    const starts = Array.from({ length: 9 }, (_, i) => audio[0]!.packet(i).pts)
    expect(starts).toEqual([0, 2400, 4800, 7200, 9600, 12_000, 14_400, 16_800, 19_200])
    expect([info.audio[0]!.samples, info.problems]).toEqual([(440 - 10) * 48, []])
    // of a last block that says nothing, those before tell
    const silent = await open(segmentOf(sound, cluster(0, laced(0), laced(200))))
    expect(silent.info.audio[0]!.samples).toBe(400 * 48)
  })
  it('says that uncompressed sound is missing, and that the rest comes early', async () => {
    const block = (time: number) => simple(2, time, 0x80, new Uint8Array(1920 * 4))
    const said = async (time: number) => (await open(segment(cluster(0, block(0), block(time))))).info.problems
    expect(await said(40)).toEqual([])
    expect(await said(540)).toMatchObject([
      {
        code: 'media.sound-missing',
        message: 'Sound is missing inside the track: 0.50 s at 0.04 s; what follows comes that much too early.',
      },
    ])
  })
  it('reads a file that breaks off up to its last whole frame, and says so', async () => {
    const cut = await open(file.subarray(0, file.length - chapters.length - 2))
    expect(cut.info.durationFrames).toBe(4)
    expect(cut.info.problems.map((p) => p.code)).toEqual(['file.truncated'])
    await expect(open(file.subarray(0, 60))).rejects.toMatchObject({ problem: { code: 'matroska.no-tracks' } })
  })
  it('ends with a problem or a reading on ten thousand mutated files, never with anything else', async () => {
    let x = 5
    const next = () => (x = (Math.imul(x, 1664525) + 1013904223) >>> 0) >>> 8
    for (let n = 0; n < 10_000; n++) {
      const bytes = Uint8Array.from(file)
      for (let k = next() % 5; k >= 0; k--)
        bytes[next() % bytes.length] = [0, 0xff, next() & 255, 1 << (next() & 7)][next() & 3]!
      try {
        const m = await open(next() % 4 ? bytes : bytes.subarray(0, next() % bytes.length))
        for (const v of m.video) for (let i = 0; i < v.info.frames; i++) v.sample(v.sampleOfFrame(i))
      } catch (e) {
        if (!(e instanceof ProblemError)) throw e
      }
    }
  })
})

describe('what players do to the pictures of Matroska', () => {
  const shown = (...more: Uint8Array[]) => {
    const size = [number([0xb0], 64), number([0xba], 36)]
    const pictures = track(1, 1, 'V_VP9', number([0x23, 0xe3, 0x83], 40_000_000), element([0xe0], ...size, ...more))
    return open(segmentOf(pictures, cluster(0, simple(1, 0, 0x80, picture(0)))))
  }
  it.each([
    ['are cut', [number([0x54, 0xbb], 4), number([0x54, 0xaa], 4)], { part: { width: 64, height: 28 } }],
    ['are two views', [number([0x53, 0xb8], 1)], { twoViews: true }],
    ['surround the viewer', [element([0x76, 0x70], number([0x76, 0x71], 1))], { around: true }],
    ['are turned', [element([0x76, 0x70], float([0x76, 0x75], -90))], { turned: 90 }],
    ['are as they are', [element([0x76, 0x70], number([0x76, 0x71], 0)), number([0x54, 0xbb], 0)], undefined],
  ] as const)('that %s', async (_, more, wanted) => {
    const { info } = await shown(...more)
    expect(info.video[0]!.presentation).toEqual(wanted)
    expect(info.problems.map((p) => p.code)).toEqual(wanted ? ['media.presentation'] : [])
  })
  it('has the shape of pixels that the size to show gives what is left of them', async () => {
    const cut = [number([0x54, 0xbb], 4), number([0x54, 0xaa], 4)]
    const { info } = await shown(...cut, number([0x54, 0xb0], 128), number([0x54, 0xba], 28))
    expect(info.video[0]!.pixelAspect).toBe('2:1')
  })
  it('and tracks that are switched off come last, and are said', async () => {
    const of = (n: number, width: number, on: number) =>
      track(n, 1, 'V_VP9', number([0xb9], on), element([0xe0], number([0xb0], width), number([0xba], 36)))
    const both = concatBytes([of(1, 64, 0), of(3, 80, 1)])
    const { info } = await open(
      segmentOf(both, cluster(0, simple(1, 0, 0x80, picture(0)), simple(3, 0, 0x80, picture(1)))),
    )
    expect(info.video.map((v) => [v.width, v.presentation])).toEqual([
      [80, undefined],
      [64, { off: true }],
    ])
  })
})
