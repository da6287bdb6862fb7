import { editedSamples } from './sound'
import type { Trak } from './trak'
import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, Writer, type ByteSource } from '../../bytes'
import { decodeStart } from '../../codec/web/pictures'
import { ProblemError } from '../../problem'
import { makeRate } from '../../time/rate'
import { box, fullBox } from './boxwriter'
import { aacEntry, pcm24Entry, pictureEntry, tmcdEntry } from './entrywriter'
import type { WrapTrack } from './movie'
import { movieHead } from './write'
import { openMedia } from '../registry'

const avcC = Uint8Array.from(
  Buffer.from('01640028ffe1001867640028acb403c0113f2c20000003002000000651e3065401000468ef3cb0', 'hex'),
)
const entry = pictureEntry(
  'avc1',
  { width: 1920, height: 1080, pixelAspect: '1:1', colour: null, scan: 'progressive', configuration: avcC },
  'avcC',
  'mp4',
)
const rate = makeRate(30000, 1001)

function picture(changes: Partial<WrapTrack> = {}): WrapTrack {
  return {
    kind: 'video',
    timescale: 30000,
    width: 1920,
    height: 1080,
    sampleEntry: entry,
    sizes: Uint32Array.from([9, 5, 5, 9, 5, 5]),
    durations: { constant: 1001 },
    sync: Uint8Array.from([1, 0, 0, 1, 0, 0]),
    chunks: [{ offset: 16, samples: 6 }],
    ...changes,
  }
}
const sound: WrapTrack = {
  kind: 'audio',
  timescale: 48000,
  sampleEntry: pcm24Entry(2, 48000, 'L R'),
  sizes: { constant: 6, count: 9610 },
  durations: { constant: 1 },
  chunks: [{ offset: 54, samples: 9610 }],
}
const timecode: WrapTrack = {
  kind: 'timecode',
  timescale: 30000,
  sampleEntry: tmcdEntry(rate, true),
  sizes: { constant: 4, count: 1 },
  durations: { constant: 6006 },
  chunks: [{ offset: 0, samples: 1 }],
}

function file(tracks: readonly WrapTrack[], brand: 'mov' | 'mp4' = 'mov', dataSize = 54 + 9610 * 6): Uint8Array {
  const data = new Uint8Array(dataSize)
  new DataView(data.buffer).setUint32(0, 107892)
  return concatBytes([movieHead({ brand, tracks, dataSize }), data])
}
const open = (bytes: Uint8Array) => openMedia(memorySource(bytes, 'test.mov'))

async function problemOf(bytes: Uint8Array | ByteSource): Promise<string> {
  try {
    await (bytes instanceof Uint8Array ? open(bytes) : openMedia(bytes))
    return 'none'
  } catch (e) {
    if (e instanceof ProblemError) return e.problem.code
    throw e
  }
}

describe('MP4 and MOV', () => {
  it('reads what is in front: pictures, sound, drop-frame timecode', async () => {
    const { info } = await open(file([picture(), sound, timecode]))
    expect(info).toMatchObject({
      container: 'mov',
      indexAt: 'front',
      durationFrames: 6,
      timecode: { start: '01:00:00;00', dropFrame: true },
    })
    expect(info.video[0]).toMatchObject({
      codec: 'h264',
      profile: 'High',
      level: '4.0',
      width: 1920,
      height: 1080,
      rate,
      chroma: '4:2:0',
      bitDepth: 8,
      scan: 'progressive',
      intra: false,
      webCodec: 'avc1.640028',
    })
    expect(info.audio[0]).toMatchObject({
      codec: 'pcm',
      channels: 2,
      sampleRate: 48000,
      bitDepth: 24,
      samples: 9610,
      layout: 'L R',
    })
  })
  it('reads an index at the end', async () => {
    const bytes = file([picture(), sound, timecode])
    const view = new DataView(bytes.buffer)
    const moov = view.getUint32(20)
    // moov is moved behind the media data; a `free` box of its size keeps every offset
    const free = box('free', new Uint8Array(moov - 8))
    const { info, video } = await open(
      concatBytes([bytes.subarray(0, 20), free, bytes.subarray(20 + moov), bytes.subarray(20, 20 + moov)]),
    )
    expect(info.indexAt).toBe('end')
    expect(video[0]!.sample(0).size).toBe(9)
  })
  it('reads 64-bit offsets of a file of 20 GB without reading it', async () => {
    const head = movieHead({
      brand: 'mov',
      tracks: [picture({ chunks: [{ offset: 19_999_999_000, samples: 6 }] })],
      dataSize: 20_000_000_000,
    })
    let read = 0
    const source: ByteSource = {
      name: 'large.mov',
      size: head.length + 20_000_000_000,
      read: async (offset, length) => {
        read += length
        const out = new Uint8Array(length)
        if (offset < head.length) out.set(head.subarray(offset, offset + length))
        return out
      },
    }
    const { video } = await openMedia(source)
    expect(video[0]!.sample(0).offset).toBe(head.length + 19_999_999_000)
    expect(read).toBeLessThan(100_000)
  })
  it('shows frames in display order and keeps to the edit list', async () => {
    // I0 P3 B1 B2 I6 B4 B5 in decode order; the edit begins at display frame 2
    const cts = Int32Array.from([1, 3, 0, 0, 3, 0, 0].map((v) => v * 1001))
    const track = picture({
      sizes: new Uint32Array(7).fill(4),
      cts,
      sync: Uint8Array.from([1, 0, 0, 0, 1, 0, 0]),
      chunks: [{ offset: 16, samples: 7 }],
      edit: { mediaTime: 3 * 1001, duration: 4 * 1001 },
    })
    const { video, info } = await open(file([track]))
    expect(info.durationFrames).toBe(4)
    expect([0, 1, 2, 3].map((n) => video[0]!.sampleOfFrame(n))).toEqual([3, 1, 5, 6])
    // frames 4 and 5 lie behind the second sync sample but are shown before it: they lean on the group before
    expect(decodeStart(video[0]!, 2)).toBe(0)
  })
  it('skips the priming of coded sound', async () => {
    const aac: WrapTrack = {
      kind: 'audio',
      timescale: 48000,
      sampleEntry: aacEntry(2, 48000, Uint8Array.from([0x11, 0x90]), 192000),
      sizes: new Uint32Array(5).fill(7),
      durations: { constant: 1024 },
      chunks: [{ offset: 54, samples: 5 }],
      edit: { mediaTime: 1024, duration: 3900 },
    }
    const { audio, info } = await open(file([picture(), aac], 'mp4'))
    expect(info.audio[0]).toMatchObject({
      codec: 'aac',
      channels: 2,
      sampleRate: 48000,
      samples: 3900,
      webCodec: 'mp4a.40.2',
    })
    expect(audio[0]!.start).toBe(1024)
  })
  it('reads fragments', async () => {
    const entries = [
      fullBox('stsd', 0, 0, new Writer().u32(1).bytes(), entry),
      fullBox('stts', 0, 0, new Uint8Array(4)),
      fullBox('stsc', 0, 0, new Uint8Array(4)),
      fullBox('stsz', 0, 0, new Uint8Array(8)),
      fullBox('stco', 0, 0, new Uint8Array(4)),
    ]
    const mdia = box(
      'mdia',
      fullBox('mdhd', 0, 0, new Writer().zero(8).u32(25).u32(0).u32(0).bytes()),
      fullBox('hdlr', 0, 0, new Writer().u32(0).tag('vide').zero(13).bytes()),
      box('minf', box('stbl', ...entries)),
    )
    const trak = box('trak', fullBox('tkhd', 0, 3, new Writer().zero(8).u32(1).zero(68).bytes()), mdia)
    const moov = box(
      'moov',
      fullBox('mvhd', 0, 0, new Writer().zero(8).u32(25).zero(84).bytes()),
      trak,
      box('mvex', fullBox('trex', 0, 0, new Writer().u32(1).u32(1).u32(1).u32(0).u32(0x10000).bytes())),
    )
    const ftyp = box('ftyp', new Writer().tag('iso5').u32(0).bytes())
    const fragment = (time: number) => {
      const trun = fullBox('trun', 0, 0x205, new Writer().u32(3).i32(100).u32(0x2000000).u32(4).u32(4).u32(4).bytes())
      const traf = box(
        'traf',
        fullBox('tfhd', 0, 0x20000, new Writer().u32(1).bytes()),
        fullBox('tfdt', 0, 0, new Writer().u32(time).bytes()),
        trun,
      )
      const moof = box('moof', fullBox('mfhd', 0, 0, new Writer().u32(1).bytes()), traf)
      return concatBytes([moof, box('mdat', new Uint8Array(20))])
    }
    const { info, video } = await open(concatBytes([ftyp, moov, fragment(0), fragment(3)]))
    expect(info).toMatchObject({ container: 'mp4', indexAt: 'fragments', durationFrames: 6 })
    expect(info.video[0]!.rate).toEqual(makeRate(25))
    expect([0, 1, 2, 3, 4, 5].map((i) => video[0]!.sample(i).sync)).toEqual([true, false, false, true, false, false])
  })
  it.each([
    ['sowt', 16, 2, true],
    ['twos', 16, 2, false],
    ['in24', 16, 3, false],
    ['in32', 16, 4, false],
    ['fl32', 16, 4, false],
  ])('reads PCM of kind %s', async (type, bits, bytes, little) => {
    const e = box(
      type,
      new Writer()
        .zero(6)
        .u16(1)
        .u16(0)
        .zero(6)
        .u16(2)
        .u16(bits)
        .u32(0)
        .u32(48000 * 65536)
        .bytes(),
    )
    const { audio } = await open(file([{ ...sound, sampleEntry: e }]))
    expect(audio[0]!.pcm).toMatchObject({ bytesPerSample: bytes, littleEndian: little, channels: 2 })
  })
  it('reads lpcm of version 2, and ISO PCM', async () => {
    const head = () => new Writer().zero(6).u16(1).u16(2).zero(6).u16(3).u16(16).i16(-2).u16(0).u32(65536).u32(72)
    const lpcm = (apart: number) =>
      box('lpcm', head().f64(96000).u32(4).u32(0x7f000000).u32(24).u32(12).u32(apart).u32(1).bytes())
    expect((await open(file([{ ...sound, sampleEntry: lpcm(12) }]))).audio[0]).toMatchObject({
      info: { channels: 4, sampleRate: 96000, bitDepth: 24 },
      pcm: { littleEndian: true },
    })
    expect(await problemOf(file([{ ...sound, sampleEntry: lpcm(16) }]))).toBe('mp4.sound-entry')
    const ipcm = box(
      'ipcm',
      new Writer()
        .zero(6)
        .u16(1)
        .zero(8)
        .u16(2)
        .u16(24)
        .u32(0)
        .u32(48000 * 65536)
        .bytes(),
      fullBox('pcmC', 0, 0, Uint8Array.from([1, 24])),
    )
    expect((await open(file([{ ...sound, sampleEntry: ipcm }], 'mp4'))).audio[0]!.pcm).toMatchObject({
      bytesPerSample: 3,
      littleEndian: true,
    })
  })
  it.each([
    ['L R C LFE Ls Rs', 'L R C LFE Ls Rs'],
    ['L C R Ls Rs LFE', 'L C R Ls Rs LFE'],
    ['L R L R L R', 'L R L R L R'],
    ['L R ? ?', null],
    [null, null],
  ])('says which channel is which, by a tag or by labels: %s', async (layout, read) => {
    const channels = layout?.split(' ').length ?? 6
    const sampleEntry = pcm24Entry(channels, 48_000, layout)
    const { info } = (await open(file([{ ...sound, sampleEntry }]))).audio[0]!
    expect([info.channels, info.layout]).toEqual([channels, read])
  })
  it('reads sample rates that 16 bits do not hold, as they are written here and by others', async () => {
    const told = async (timescale: number, sampleEntry: Uint8Array, brand: 'mov' | 'mp4' = 'mov') =>
      (await open(file([{ ...sound, timescale, sampleEntry }], brand))).audio[0]!
    const own = await told(96_000, pcm24Entry(2, 96_000, 'L R'))
    expect(own.info).toMatchObject({ codec: 'pcm', sampleRate: 96_000, channels: 2, bitDepth: 24, layout: 'L R' })
    expect(own.pcm).toEqual({ bytesPerSample: 3, kind: 'int', littleEndian: false, channels: 2 })
    // what is left of it in 16 bits, nothing, and a box of its own beside a rate that is not it
    const ipcm = (rate: number, ...more: Uint8Array[]) =>
      box(
        'ipcm',
        new Writer().zero(6).u16(1).zero(8).u16(2).u16(24).u32(0).u16(rate).u16(0).bytes(),
        fullBox('pcmC', 0, 0, Uint8Array.from([1, 24])),
        ...more,
      )
    for (const [timescale, entry] of [
      [96_000, ipcm(96_000 % 65_536)],
      [96_000, ipcm(0)],
      [48_000, ipcm(48_000, fullBox('srat', 0, 0, new Writer().u32(96_000).bytes()))],
    ] as const)
      expect((await told(timescale, entry, 'mp4')).info.sampleRate).toBe(96_000)
    expect((await told(600, ipcm(48_000), 'mp4')).info.sampleRate).toBe(48_000)
    const aac = aacEntry(2, 96_000, Uint8Array.from([0x10, 0x10]), 192_000)
    const coded = { ...sound, timescale: 96_000, sampleEntry: aac, sizes: new Uint32Array(5).fill(7) }
    const five = { durations: { constant: 1024 }, chunks: [{ offset: 54, samples: 5 }] }
    expect((await open(file([{ ...coded, ...five }], 'mp4'))).info.audio[0]).toMatchObject({
      ...{ codec: 'aac', sampleRate: 96_000, samples: 5120 },
    })
  })
  it('reads field order and aspect', async () => {
    const shown = {
      width: 720,
      height: 576,
      pixelAspect: '16:11',
      colour: { primaries: 5, transfer: 1, matrix: 6, fullRange: false },
      scan: 'interlaced-tff' as const,
      configuration: null,
    }
    const e = pictureEntry('v210', shown, null, 'mov')
    const { info } = await open(file([picture({ sampleEntry: e, sync: Uint8Array.from([1, 1, 1, 1, 1, 1]) })]))
    expect(info.video[0]).toMatchObject({
      codec: 'v210',
      bitDepth: 10,
      chroma: '4:2:2',
      scan: 'interlaced-tff',
      pixelAspect: '16:11',
      colour: { primaries: 5, matrix: 6 },
      intra: true,
    })
  })
})

describe('bad MP4 and MOV', () => {
  const good = file([picture(), sound, timecode])
  it('names what is empty, renamed, encrypted or cut off', async () => {
    expect(await problemOf(new Uint8Array())).toBe('media.empty')
    expect(await problemOf(new TextEncoder().encode('this is a letter, not a film, whatever its name'))).toBe(
      'media.unknown',
    )
    expect(await problemOf(file([picture({ sampleEntry: box('encv', entry.subarray(8)) })]))).toBe('mp4.encrypted')
    expect(await problemOf(good.subarray(0, 300))).toBe('mp4.no-index')
  })
  it('keeps what there is of a file that lost its end, and says so', async () => {
    const { info } = await open(good.subarray(0, good.length - 30_000))
    expect(info.problems.map((p) => p.code)).toContain('file.truncated')
    expect(info.audio[0]!.samples).toBeLessThan(9610)
  })
  it('refuses boxes larger than the file, endless nesting, and tables that promise four billion entries', async () => {
    const ftyp = box('ftyp', new Writer().tag('isom').u32(0).bytes())
    let nest: Uint8Array = new Uint8Array()
    for (let i = 0; i < 20_000; i++) nest = nest.length > 200_000 ? nest : box('trak', box('mdia', nest))
    expect(await problemOf(concatBytes([ftyp, box('moov', nest)]))).toMatch(/^mp4|^media/)
    expect(await problemOf(concatBytes([ftyp, new Writer().u32(0x7fffffff).tag('moov').bytes()]))).toBe('mp4.no-index')
    for (const type of ['stts', 'stss', 'stsz', 'stsc', 'co64']) {
      const bytes = good.slice()
      const text = Buffer.from(bytes)
      const at = text.indexOf(type === 'co64' ? 'stco' : type)
      new DataView(bytes.buffer).setUint32(at + (type === 'stsz' ? 12 : 8), 0xfffffff0)
      expect(await problemOf(bytes), type).toBe('mp4.table-size')
    }
  })
  it('ends with a problem or a reading on ten thousand mutated files, never with anything else', async () => {
    let seed = 20261125
    const random = (n: number) => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
      return Math.floor((seed / 2 ** 32) * n)
    }
    const head = good.length - (54 + 9610 * 6)
    const outcomes = new Set<string>()
    for (let i = 0; i < 10_000; i++) {
      const bytes = good.slice(0, random(10) === 0 ? random(good.length) : good.length)
      for (let k = 1 + random(4); k > 0 && bytes.length > 8; k--) {
        const at = random(Math.min(head, bytes.length))
        bytes[at] = [0, 255, 127, random(256), bytes[at]! ^ (1 << random(8))][random(5)]!
      }
      outcomes.add(await problemOf(bytes))
    }
    expect(outcomes.has('internal.error')).toBe(false)
    expect(outcomes.size).toBeGreaterThan(5)
  })
})

describe('an edit list over sound', () => {
  const edited = (mediaTime: number, duration: number, first: number, total = 96_000) =>
    editedSamples(
      { edits: [{ mediaTime, duration }], timescale: 48_000 } as unknown as Trak,
      total,
      1000,
      48_000,
      first,
    )
  it.each([
    ['begins where it says', edited(1024, 1000, 0), { start: 1024, samples: 48_000 }],
    [
      'counts from the time of the first sample, where sound begins late',
      edited(49_024, 0, 48_000),
      { start: 1024, samples: 94_976 },
    ],
    ['that lies before the first sample leaves nothing out', edited(1024, 0, 48_000), { start: 0, samples: 96_000 }],
    [
      'within a tick of the movie’s clock of the end gives all that is left',
      edited(0, 1999, 0, 95_970),
      { start: 0, samples: 95_970 },
    ],
    ['beyond the end gives what there is', edited(200_000, 500, 0), { start: 96_000, samples: 0 }],
  ])('%s', (_, found, wanted) => expect(found).toEqual(wanted))
})
