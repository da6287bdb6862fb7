import { describe, expect, it } from 'vitest'
import { memorySource, Reader } from '../core/bytes'
import type { Lines } from '../core/container/container'
import type { Part } from '../core/container/structure'
import { mxf } from '../core/container/mxf/container'
import { openMedia } from '../core/container/registry'
import { ancillaryMeter, isTimecode } from '../core/media/ancillary'
import { bt709 } from '../core/media/colour'
import type { LinesKind } from '../core/media/media'
import type { Packet } from '../core/media/packet'
import { lostData, type Output } from '../core/recipe/output'
import { readMeasures } from '../core/measure/registry'
import { makeRate } from '../core/time/rate'
import { activeFormat, captions, elementOf, packet, timecode } from './blanking'

const frames = 30

/** A file of pictures that are none, with lines of the blanking; the bytes of a frame's picture are its number. */
function fileOf(
  data: readonly LinesKind[],
  lines: (n: number) => readonly Lines[],
  picture = (n: number) => new Uint8Array(6000).fill(n),
): Uint8Array {
  const units = mxf.units!('mxf', {
    video: {
      ...{ kind: 'video', codec: 'h264-intra', width: 1920, height: 1080, pixelAspect: '1:1', colour: bt709 },
      ...{ scan: 'segmented', configuration: null },
    },
    ...{ pictureBytes: 6000, sound: null, samplesBefore: () => 0, data, frames, rate: makeRate(25) },
    ...{ start: { frames: 0, dropFrame: false }, name: 'Fog Bell', chapters: [] },
    identity: new Uint8Array(16).fill(5),
  })
  const bytes = new Uint8Array(units.tail.at + units.tail.bytes.length)
  bytes.set(units.head)
  bytes.set(units.tail.bytes, units.tail.at)
  for (let n = 0; n < frames; n++) for (const p of units.unit(n, picture(n), [], lines(n))) bytes.set(p.bytes, p.at)
  return bytes
}

const elements = (n: number) => elementOf(n < 10 ? [captions(n), activeFormat] : [captions(n)])

describe('lines of the blanking in MXF', () => {
  it('stand in their frames as they were given, beside pictures of one size, and say what they carry', async () => {
    const bytes = fileOf(['ancillary'], (n) => [n === 20 ? null : elements(n)])
    const media = await openMedia(memorySource(bytes, 'bell.mxf'))
    expect(media.info.problems).toEqual([])
    expect(media.info.data).toEqual([
      { kind: 'ancillary', label: 'ancillary data', carries: ['captions-708', 'active-format'] },
    ])
    const [track] = media.data!
    expect(track!.frames).toBe(frames)
    for (let n = 0; n < frames; n++) {
      const there = await track!.read(n)
      expect(Buffer.from(there).equals(Buffer.from(n === 20 ? [0, 0] : elements(n)))).toBe(true)
      expect(track!.packets(there).length).toBe(n === 20 ? 0 : n < 10 ? 2 : 1)
      const { offset, size } = media.video[0]!.sample(n)
      expect([size, bytes[offset], bytes[offset + size - 1]]).toEqual([6000, n, n])
    }
    expect(await mxf.structureFault!(memorySource(bytes, 'bell.mxf'))).toBeNull()
  })

  it('of both kinds, and several of one, are told apart', async () => {
    const own = (n: number) => [elementOf([captions(n)]), elementOf([packet(1, 2, n)]), elementOf([activeFormat])]
    const media = await openMedia(memorySource(fileOf(['ancillary', 'vbi', 'ancillary'], own), 'three.mxf'))
    expect(media.info.data?.map((d) => d.kind)).toEqual(['ancillary', 'vbi', 'ancillary'])
    for (const n of [0, 17, 29])
      expect(await Promise.all(media.data!.map((d) => d.read(n)))).toEqual(own(n).map((e) => Uint8Array.from(e)))
  })

  it('are taken apart in Inside, line by line', async () => {
    const source = memorySource(
      fileOf(['ancillary'], () => [elementOf([captions(1), packet(0x50, 1, 5)])]),
      'bell.mxf',
    )
    const { structure } = mxf
    const body = (await structure!.top!(source)).at(-2)!
    let part: Part | null = null
    for (let at = body.offset; at < source.size; at = part.offset + part.size) {
      part = await structure!.part!(source, at, source.size, body)
      if (!part || part.label.startsWith('ancillary data')) break
    }
    const value = new Reader(await source.read(part!.offset + part!.head, part!.size - part!.head))
    expect(await structure!.fields(part!, value, source)).toEqual([
      { name: 'line 9', value: `CEA-708 captions (61/01), ${captions(1).words.length} words` },
      { name: 'line 10', value: 'other packets (50/01), 1 word' },
    ])
  })

  it('are as they were without those that are dropped', async () => {
    const media = await openMedia(
      memorySource(
        fileOf(['ancillary'], () => [null]),
        'bell.mxf',
      ),
    )
    const { without } = media.data![0]!
    const all = elementOf([captions(1), timecode, activeFormat])
    const kept = without(all, isTimecode)
    expect(media.data![0]!.packets(kept)).toEqual([captions(1), activeFormat])
    expect(kept.length).toBe(all.length - elementOf([timecode]).length + 2)
    expect(without(all, () => false)).toBe(all)
    expect(without(all, () => true)).toEqual(Uint8Array.of(0, 0))
  })

  it('that are not there for every picture are said, and not read', async () => {
    const bytes = Buffer.from(fileOf(['ancillary'], (n) => [elements(n)]))
    const key = Buffer.from('060e2b34010201010d01030117010201', 'hex')
    // the last two become fill
    for (let k = 0; k < 2; k++)
      Buffer.from('060e2b34010101020301021001000000', 'hex').copy(bytes, bytes.lastIndexOf(key))
    const media = await openMedia(memorySource(Uint8Array.from(bytes), 'less.mxf'))
    expect([media.video[0]!.info.frames, media.data]).toEqual([frames, []])
    expect(media.info.data?.map((d) => d.kind)).toEqual(['other'])
  })

  it('that are more than there is room for are refused, not cut', () => {
    const many = elementOf(Array.from({ length: 40 }, () => packet(0x45, 1, ...Array<number>(250).fill(7))))
    expect(() => fileOf(['ancillary'], () => [many])).toThrow('there is room for')
  })

  it('are told from captions that go with the pictures themselves', async () => {
    const said = Buffer.from([0xb5, 0, 0x31, ...Buffer.from('GA94'), 3])
    const picture = (n: number) => Uint8Array.from(Buffer.concat([Buffer.alloc(6000 - 8, n), said]))
    const { info } = await openMedia(
      memorySource(
        fileOf(['vbi'], () => [null], picture),
        'both.mxf',
      ),
    )
    expect(info.data?.map(({ kind, label }) => [kind, label])).toEqual([
      ['vbi', 'VBI lines'],
      ['pictures', 'CEA-708 captions in its pictures'],
    ])
    const lost = (data: Output['data'], copies: boolean) => lostData(data ? { data } : {}, info, copies)
    expect(lost(['vbi'], true)).toEqual([])
    expect(lost(['vbi'], false).map((d) => d.kind)).toEqual(['pictures'])
    expect(lost(undefined, false).map((d) => d.kind)).toEqual(['vbi', 'pictures'])
  })

  it('that are damaged are said with their byte, and cost their frame alone', async () => {
    const bytes = fileOf(['ancillary'], (n) => [elements(n)])
    const whole = await openMedia(memorySource(bytes, 'bell.mxf'))
    const first = Buffer.from(bytes).indexOf(Buffer.from(elements(11)))
    bytes.fill(0xff, first, first + 4)
    const media = await openMedia(memorySource(bytes, 'bell.mxf'))
    await expect(media.data![0]!.read(11)).rejects.toThrow(`Ancillary data at byte ${first} is not laid out`)
    expect(await media.data![0]!.read(12)).toEqual(await whole.data![0]!.read(12))
  })

  it.each([8, 10] as const)('are read of %i bits a sample', async (bits) => {
    const media = await openMedia(
      memorySource(
        fileOf(['ancillary'], (n) => [elementOf([captions(n), activeFormat], bits)]),
        'bits.mxf',
      ),
    )
    const [track] = media.data!
    expect(track!.packets(await track!.read(7))).toEqual([captions(7), activeFormat])
  })

  it('whose parity is wrong are not understood as what they are not', async () => {
    const own = elementOf([captions(1)], 10)
    own[16] = own[16]! ^ 0x80
    const media = await openMedia(
      memorySource(
        fileOf(['ancillary'], () => [own]),
        'parity.mxf',
      ),
    )
    expect(media.data![0]!.packets(own)).toEqual([])
    expect(media.info.data![0]!.carries).toEqual([])
  })
})

describe('what ancillary packets of a file are judged by', () => {
  const facts = (of: (n: number) => Packet[]) => {
    const meter = ancillaryMeter()
    for (let n = 0; n < 20; n++) meter.feed(of(n), n)
    return readMeasures({ ancillary: meter.result() }, 'file')
  }
  const afd = (code: number, wide = true) => packet(0x41, 0x05, (code << 3) | (wide ? 4 : 0))

  it('services by name, with the frames that have them', () => {
    const found = facts((n) => [captions(n), ...(n < 5 ? [packet(0x43, 0x02, 1), packet(0x50, 0x01)] : [])])
    expect(found.ancillary).toMatchObject({
      value: ['captions-708', 'subtitles-op47', 'other-packets'],
      text: 'CEA-708 captions in every frame, OP-47 subtitles in 5 of 20 frames, other packets in 5 of 20 frames',
    })
  })

  it.each<[string, (n: number) => Packet[], number | string, string]>([
    ['that every frame says', () => [afd(10)], 10, '10 (the whole frame, 16:9) in 16:9'],
    ['of a frame of 4:3', () => [afd(9, false)], 9, '9 (the whole frame, 4:3) in 4:3'],
    ['that no frame says', () => [captions(1)], 'none', 'not said'],
    [
      'that changes',
      (n) => [afd(n < 8 ? 10 : 9)],
      'varies',
      'not the same throughout: 10 (the whole frame, 16:9) in 16:9 for 8, 9 (4:3 in the middle) in 16:9 for 12 frames',
    ],
    [
      'that some frames say',
      (n) => (n < 19 ? [afd(10)] : []),
      'varies',
      'not said by every frame: 10 (the whole frame, 16:9) in 16:9 for 19 frames',
    ],
  ])('an active format %s', (_, of, value, text) => {
    expect(facts(of)['active-format']).toMatchObject({ value, text })
  })

  it('a file without any has none; what was not looked at is not said', () => {
    const none = readMeasures({ ancillary: null }, 'file')
    expect([none.ancillary?.value, none['active-format']?.value]).toEqual([[], 'none'])
    expect(readMeasures({}, 'file').ancillary).toBeUndefined()
  })
})
