import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource } from '../../bytes'
import { canDecodeSound, openSound } from '../../codec/sound'
import { needClass } from '../../codec/h264-intra/class'
import { bt709 } from '../../media/colour'
import { writtenStructure, type Scan } from '../../media/media'
import { makeRate, type Rate } from '../../time/rate'
import { sampleAtFrame } from '../../time/samples'
import type { UnitPlan } from '../container'
import { openMedia } from '../registry'
import { mxf } from './container'
import { fill } from './klv'
import { hex, keys } from './labels'
import { KlvReader, partitionsOf, randomIndex } from './partitions'

interface Wanted {
  readonly frames: number
  readonly channels: number
  readonly rate: Rate
  readonly scan: Scan
  readonly height: number
  readonly partitionFrames?: number
}

const rateOf = (plan: UnitPlan) => plan.rate
const chaptersOf = (frames: number) =>
  frames > 5
    ? [
        { at: 2, name: 'Chain, close' },
        { at: 5, name: 'Það – 潮' },
      ]
    : []

/** A whole file of pictures that are numbers, and of tones that are lines. */
function write(wanted: Partial<Wanted> = {}): {
  bytes: Uint8Array
  plan: UnitPlan
  sound: (n: number) => Float32Array[]
} {
  const { frames, channels, rate, scan, height, partitionFrames } = {
    ...{ frames: 12, channels: 4, rate: makeRate(25), scan: 'segmented' as const, height: 1080 },
    ...wanted,
  }
  const width = height === 1080 ? 1920 : 1280
  const pictureBytes = needClass({ width, height, rate, scan }).bytes
  const samplesBefore = (n: number) => sampleAtFrame(n, rate, 48000)
  const plan: UnitPlan = {
    video: {
      ...{ kind: 'video', codec: 'h264-intra', width, height, pixelAspect: '1:1', colour: bt709, scan },
      configuration: null,
    },
    pictureBytes,
    ...(partitionFrames ? { partitionFrames } : {}),
    sound: channels
      ? { kind: 'audio', codec: 'pcm', channels, sampleRate: 48000, layout: null, configuration: null, bitrate: 0 }
      : null,
    ...{ samplesBefore, frames, rate, name: 'The Gannet Run' },
    chapters: chaptersOf(frames),
    metadata: { 'production number': 'FA-102', '100% = all?': 'a=b, ünïcode 🛶' },
    start: { frames: 90_000, dropFrame: false },
    identity: Uint8Array.from({ length: 16 }, (_, i) => i * 7),
  }
  const sound = (n: number) =>
    Array.from({ length: channels }, (_, c) =>
      Float32Array.from(
        { length: samplesBefore(n + 1) - samplesBefore(n) },
        (_, i) => (c * 1e5 + samplesBefore(n) + i) / 2 ** 23,
      ),
    )
  const units = mxf.units!('mxf', plan)
  const bytes = new Uint8Array(units.tail.at + units.tail.bytes.length)
  bytes.set(units.head)
  bytes.set(units.tail.bytes, units.tail.at)
  const picture = new Uint8Array(pictureBytes)
  for (let n = frames - 1; n >= 0; n--) {
    picture.fill(n + 1)
    for (const p of units.unit(n, picture, sound(n))) bytes.set(p.bytes, p.at)
  }
  return { bytes, plan, sound }
}

const open = (bytes: Uint8Array) => openMedia(memorySource(bytes, 'file.mxf'))

describe('an MXF file as it is written', () => {
  it.each<[string, Partial<Wanted>]>([
    ['25 frames, segmented, four channels', {}],
    [
      '30000/1001, where frames differ in samples',
      { rate: makeRate(30000, 1001), scan: 'interlaced-tff', channels: 16 },
    ],
    ['lower field first', { scan: 'interlaced-bff', channels: 2 }],
    ['720 lines, progressive, mute', { height: 720, rate: makeRate(50), scan: 'progressive', channels: 0 }],
    ['a single frame', { frames: 1 }],
    ['partitions of five frames', { partitionFrames: 5 }],
    [
      'partitions of seven frames that differ in samples, the last of one',
      { partitionFrames: 7, frames: 29, rate: makeRate(30000, 1001), scan: 'interlaced-tff' },
    ],
    ['a partition for each frame', { partitionFrames: 1, frames: 3 }],
    ['partitions longer than all', { partitionFrames: 100 }],
  ])('is read as it was meant: %s', async (_, wanted) => {
    const { bytes, plan, sound } = write(wanted)
    const media = await open(bytes)
    const { info } = media
    expect(info.chapters.map((c) => [(c.at * rateOf(plan).num) / (c.timescale * rateOf(plan).den), c.name])).toEqual(
      plan.chapters.map((c) => [c.at, c.name]),
    )
    expect(info.problems).toEqual([])
    expect(info.metadata).toEqual(plan.metadata)
    expect(info).toMatchObject({ container: 'mxf', indexAt: 'front', durationFrames: plan.frames })
    expect(info.video[0]).toMatchObject({
      ...{ codec: 'h264-intra', rate: plan.rate, scan: plan.video.scan, chroma: '4:2:2', bitDepth: 10 },
      ...{ width: plan.video.width, height: plan.video.height, pixelAspect: '1:1', colour: bt709, intra: true },
    })
    expect(info.timecode).toMatchObject({ startFrames: 90_000, rate: plan.rate, dropFrame: false })
    const channels = plan.sound?.channels ?? 0
    expect(info.audio).toHaveLength(channels)
    for (let n = 0; n < plan.frames; n++) {
      const { offset, size } = media.video[0]!.sample(n)
      expect([size, bytes[offset], bytes[offset + size - 1]]).toEqual([plan.pictureBytes, n + 1, n + 1])
    }
    if (channels === 0) return
    const all = await openSound(media, null)!.read(0, plan.samplesBefore(plan.frames))
    const wantedSound = Array.from({ length: plan.frames }, (_, n) => sound(n))
    all.forEach((c, i) => expect(c).toEqual(Float32Array.from(wantedSound.flatMap((s) => [...s[i]!]))))
  })

  it.each([
    [400, { part: { width: 1920, height: 800 } }],
    [538, { part: { width: 1920, height: 1076 } }],
    [270, undefined],
  ])('has shown what its descriptor says: %d lines of a field', async (lines, wanted) => {
    const { bytes } = write({ frames: 1 })
    const text = Buffer.from(bytes.buffer)
    const stated = Buffer.from('32080004', 'hex')
    const told = [text.indexOf(stated), text.lastIndexOf(stated)]
    for (const at of told) text.writeUInt32BE(lines, at + 4)
    const [v] = (await open(bytes)).info.video
    expect(v!.presentation).toEqual(wanted)
    // the shape of the whole, 16:9, is that of what is shown
    expect(v!.pixelAspect).toBe(lines === 400 ? '20:27' : '1:1')
  })

  it('whose sound says that it is coded is not read as plain samples', async () => {
    const { bytes } = write({ frames: 2, channels: 1 })
    const text = Buffer.from(bytes.buffer)
    // in place of the label of its wrapping: a coding, one of those of compressed sound
    for (const found of text.toString('hex').matchAll(/30040010060e2b34.{16}0206/g))
      Buffer.from('3d060010060e2b3404010101040202020302010000', 'hex').copy(text, found.index / 2, 0, 20)
    const media = await open(bytes)
    expect(media.audio.map((a) => [a.info.codec, a.pcm])).toEqual([['060e2b34040101010402020203020100', null]])
    expect(canDecodeSound(media.info.audio, null)).toBe(false)
    await expect(openSound(media, null)!.read(0, 1)).rejects.toThrow(/cannot be decoded/)
  })

  it('that does not say what its sound is has it taken for what is usual, and says so', async () => {
    const { bytes } = write({ frames: 2, channels: 1 })
    const text = Buffer.from(bytes.buffer)
    // the depth and the rate of samples, under tags that nobody knows
    for (const found of text.toString('hex').matchAll(/3d0100040000001[08]|3d03000800/g)) text[found.index / 2] = 0xff
    const { info } = await open(bytes)
    expect(info.audio).toMatchObject([{ sampleRate: 48_000, bitDepth: 24, untold: ['sampleRate', 'bitDepth'] }])
    expect(info.problems.map((p) => p.message)).toEqual([
      'It does not say what its sound is: it is taken for 48000 Hz and for 24 bit.',
    ])
  })

  it('stands on its grid, key after key, to the last byte', async () => {
    const { bytes, plan } = write()
    const reader = new KlvReader(memorySource(bytes))
    const met: string[] = []
    for (let at = 0; at < bytes.length;) {
      const klv = await reader.klv(at)
      expect(klv, `a key at byte ${at}`).not.toBeNull()
      const { key, value, length } = klv!
      if (keys.essence.test(key) || keys.anyPartition.test(key)) expect(at % 512).toBe(0)
      met.push(key)
      at = value + length
    }
    expect(met.filter((k) => keys.anyPartition.test(k)).map((k) => k.slice(26, 30))).toEqual([
      ...['0204', '0304', '0304', '0404'],
    ])
    expect(met.filter((k) => keys.essence.test(k))).toHaveLength(plan.frames * 5)
    expect(met.at(-1)).toBe(keys.randomIndex)
  })

  it('is in partitions that know each other, of which few bytes are read', async () => {
    const { bytes, plan } = write({ partitionFrames: 5 })
    const memory = memorySource(bytes)
    const there = await partitionsOf(memory, [])
    expect(there.map((p) => [p.kind, p.bodySid, p.previous])).toEqual([
      ['header', 0, 0],
      ['body', 0, 0],
      ['body', 1, there[1]!.at],
      ['body', 1, there[2]!.at],
      ['body', 1, there[3]!.at],
      ['footer', 0, there[4]!.at],
    ])
    expect(await randomIndex(memory, new KlvReader(memory))).toEqual(there.map((p) => p.at))
    expect(there.every((p) => p.footer === there[5]!.at && p.at % 512 === 0)).toBe(true)
    // bytes of essence before each, without what partitions themselves take
    const unit = there[2]!.bodyOffset + (there[3]!.bodyOffset - there[2]!.bodyOffset) / 5
    expect(there.slice(2, 5).map((p) => p.bodyOffset)).toEqual([0, 5 * unit, 10 * unit])
    expect(await mxf.structureFault!(memory)).toBeNull()
    const { info } = await open(bytes)
    expect(info.structure).toEqual({ ...writtenStructure, bodies: { count: 3, longest: 5, rate: plan.rate } })
    expect((await open(write().bytes)).info.structure!.bodies).toMatchObject({ count: 1, longest: 12 })
    // a picture that is shorter than others, the first of a later partition: then every key is gone by
    const { offset, size } = (await open(bytes)).video[0]!.sample(5)
    const other = bytes.slice()
    other[offset - 2]! -= 1
    other.set(fill(256), offset + size - 256)
    const met = await open(other)
    expect(met.video[0]!.sample(5).size).toBe(plan.pictureBytes - 256)
    expect(met.info.structure!.bodies).toMatchObject({ count: 3, longest: 5 })
  })

  it('is the same each time, and another for another identity', () => {
    const { bytes, plan } = write()
    expect(hex(write().bytes.subarray(0, 20_000))).toBe(hex(bytes.subarray(0, 20_000)))
    const other = mxf.units!('mxf', { ...plan, identity: plan.identity.map((b) => b ^ 1) })
    expect(hex(other.head)).not.toBe(hex(bytes.subarray(0, other.head.length)))
  })
})

describe('an MXF file that is not whole', () => {
  it('is read up to its last whole frame, and says so', async () => {
    const { bytes, plan } = write()
    const whole = await open(bytes)
    const { offset } = whole.video[0]!.sample(8)
    const { info, video, audio } = await open(bytes.subarray(0, offset + 5000))
    expect(info.durationFrames).toBe(8)
    expect(video[0]!.sample(7)).toEqual(whole.video[0]!.sample(7))
    expect(audio[0]!.info.samples).toBe(plan.samplesBefore(8))
    expect(info.problems.map((p) => p.code)).toEqual(['mxf.not-closed', 'file.truncated', 'mxf.short'])
    expect(info.problems.every((p) => p.damage)).toBe(true)
  })

  it('is read without its index, by going through it', async () => {
    const { bytes, plan } = write()
    const reader = new KlvReader(memorySource(bytes))
    for (let at = 0; at < bytes.length;) {
      const klv = (await reader.klv(at))!
      // an index with another key is one that nobody knows
      if (klv.key === keys.index) bytes[at + 13] = 0x7f
      at = klv.value + klv.length
    }
    const media = await open(bytes)
    expect([media.info.durationFrames, media.info.indexAt]).toEqual([plan.frames, 'end'])
    expect(media.video[0]!.sample(11).size).toBe(plan.pictureBytes)
  })

  it('is told by its index alone where that is in the footer only, or behind the metadata', async () => {
    const { bytes, plan } = write()
    const places: number[] = []
    const reader = new KlvReader(memorySource(bytes))
    const indexes: number[] = []
    for (let at = 0; at < bytes.length;) {
      const klv = (await reader.klv(at))!
      if (keys.anyPartition.test(klv.key)) places.push(at)
      if (klv.key === keys.index) indexes.push(at)
      at = klv.value + klv.length
    }
    const [, second, third, footer] = places as [number, number, number, number]
    const [index, again] = indexes as [number, number]
    const view = (b: Uint8Array, at: number) => new DataView(b.buffer, b.byteOffset + at + 20)
    // header, metadata, index, essence: no partition between; then nothing
    const joined = concatBytes([bytes.subarray(0, second), bytes.subarray(index, third), bytes.subarray(third, footer)])
    view(joined, 0).setBigUint64(40, BigInt(third - index))
    view(joined, 0).setUint32(48, 2)
    const front = await open(joined)
    expect([front.info.indexAt, front.info.durationFrames]).toEqual(['front', plan.frames])
    // the second partition has no index any more
    const late = bytes.slice()
    view(late, second).setBigUint64(40, 0n)
    late[index + 13] = 0x7f
    expect(again).toBeGreaterThan(footer)
    const end = await open(late)
    expect([end.info.indexAt, end.info.durationFrames, end.info.problems]).toEqual(['end', plan.frames, []])
  })

  it('is found out where a key among thousands is damaged', async () => {
    const { bytes } = write({ frames: 30 })
    const check = (b: Uint8Array) => mxf.structureFault!(memorySource(b))
    expect(await check(bytes)).toBeNull()
    const { offset, size } = (await open(bytes)).video[0]!.sample(23)
    const damaged = bytes.slice()
    damaged[offset - 18] = 0
    expect((await open(damaged)).info.problems).toEqual([])
    expect(await check(damaged)).toContain('there is no key')
    const other = bytes.slice()
    other[offset - 5] = 9
    expect(await check(other)).toContain('not where or what it should be')
    expect(await check(bytes.subarray(0, offset + size))).not.toBeNull()
  })

  it('says where it lost its way, of one that is gone through', async () => {
    const { bytes } = write()
    const { offset } = (await open(bytes)).video[0]!.sample(5)
    // without an index, and with a key in the midst that is none
    for (let i = 0; i + 16 < bytes.length; i++)
      if (bytes[i] === 6 && hex(bytes.subarray(i, i + 16)) === keys.index) bytes[i + 13] = 0x7f
    bytes[offset - 19] = 0
    const { info } = await open(bytes)
    expect(info.durationFrames).toBe(5)
    expect(info.problems.map((p) => p.code)).toEqual(['mxf.damaged', 'mxf.short'])
    expect(info.problems[0]!.message).toContain(`byte ${offset - 20}`)
  })

  it('says what is missing of one that tells nothing of its essence', async () => {
    const { bytes } = write()
    for (let i = 0; i + 16 < 20_000; i++) if (hex(bytes.subarray(i, i + 14)) === keys.set) bytes[i + 14] = 0x7f
    const tail = bytes.length - 40_000
    for (let i = tail; i + 16 < bytes.length; i++) if (hex(bytes.subarray(i, i + 14)) === keys.set) bytes[i + 14] = 0x7f
    await expect(open(bytes)).rejects.toThrow('does not say what it holds')
  })
})

describe('what an MXF file says of how it is built', () => {
  const built = async (bytes: Uint8Array) => (await open(bytes)).info.structure
  it('is that it is closed, complete, and indexed whole', async () => {
    expect(await built(write().bytes)).toMatchObject(writtenStructure)
  })
  it('is what its header partition says', async () => {
    for (const [state, header] of [
      [1, 'open-incomplete'],
      [2, 'closed-incomplete'],
      [3, 'open-complete'],
    ] as const) {
      const { bytes } = write()
      bytes[14] = state
      expect(await built(bytes)).toMatchObject({ header, index: 'whole', randomIndex: true })
    }
  })
  it('is how far its index goes, and whether its end lists its partitions', async () => {
    const { bytes, plan } = write()
    const reader = new KlvReader(memorySource(bytes))
    const short = bytes.slice()
    const none = bytes.slice()
    for (let at = 0; at < bytes.length;) {
      const klv = (await reader.klv(at))!
      // the length of an index: tag 3f0d, of eight bytes
      if (klv.key === keys.index) {
        const tag = bytes.findIndex((v, i) => i > at && v === 0x3f && bytes[i + 1] === 0x0d)
        short[tag + 11] = plan.frames - 1
        none[at + 13] = 0x7f
      }
      at = klv.value + klv.length
    }
    expect((await built(short))!.index).toBe('part')
    expect((await built(none))!.index).toBe('none')
    const cut = await open(bytes.subarray(0, bytes.length - 1))
    expect(cut.info.structure).toMatchObject({ randomIndex: false, index: 'whole' })
  })
})
