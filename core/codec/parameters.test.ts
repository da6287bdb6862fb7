import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Writer } from '../bytes'
import { parseAudioSpecificConfig } from './aac/describe'
import { decoderSpecificInfo } from '../container/mp4/esds'
import { configurationWithColour, withColour } from './h264/colour'
import { parseAvcConfiguration, parseAvcSps } from './h264/describe'
import { BitReader, escapeNal, unescapeNal } from '../bits'
import { parseHevcConfiguration } from './hevc/describe'
import { readHevcSps } from './hevc/sps'

/** Writes the bits of a parameter set: numbers as [value, bits], or exp-Golomb with `ue`. */
class Bits {
  private bits = ''
  u(v: number, n: number): this {
    this.bits += v.toString(2).padStart(n, '0').slice(-n)
    return this
  }
  ue(v: number): this {
    const b = (v + 1).toString(2)
    this.bits += '0'.repeat(b.length - 1) + b
    return this
  }
  bytes(): Uint8Array {
    const padded = `${this.bits}1`.padEnd(Math.ceil((this.bits.length + 1) / 8) * 8, '0')
    return Uint8Array.from(padded.match(/.{8}/g)!, (b) => Number.parseInt(b, 2))
  }
}

describe('colour put into H.264 parameter sets', () => {
  const colour = { primaries: 9, transfer: 16, matrix: 9, fullRange: false }
  const record = Uint8Array.from(
    Buffer.from('01640028ffe1001867640028acb403c0113f2c20000003002000000651e3065401000468ef3cb0', 'hex'),
  )
  it('is read back, and nothing else has changed', () => {
    const before = parseAvcConfiguration(record)
    const after = parseAvcConfiguration(configurationWithColour(record, colour))
    const { colour: was, ...same } = parseAvcSps(before.sps[0]!)!
    const { colour: is, ...still } = parseAvcSps(after.sps[0]!)!
    expect([was, is, still]).toEqual([null, colour, same])
    expect([after.pps, after.lengthSize]).toEqual([before.pps, before.lengthSize])
    expect(configurationWithColour(configurationWithColour(record, colour), colour)).toEqual(
      configurationWithColour(record, colour),
    )
  })
  it('stands also where there was no usability information', () => {
    const plain = new Bits().ue(0).ue(0).ue(0).ue(0).ue(1).u(0, 1).ue(119).ue(67).u(1, 1).u(1, 1).u(0, 1).u(0, 1)
    const sps = Uint8Array.of(0x67, 77, 0, 40, ...plain.bytes())
    expect(parseAvcSps(sps)).toMatchObject({ width: 1920, height: 1088, colour: null })
    expect(parseAvcSps(withColour(sps, colour))).toEqual({ ...parseAvcSps(sps)!, colour })
  })
  it('of bytes that are none stays what it was', () => {
    expect(withColour(Uint8Array.of(0x67, 1), colour)).toEqual(Uint8Array.of(0x67, 1))
  })
})

describe('H.264 parameter sets', () => {
  it('reads one from an encoder', () => {
    const { sps, lengthSize } = parseAvcConfiguration(
      Uint8Array.from(
        Buffer.from('01640028ffe1001867640028acb403c0113f2c20000003002000000651e3065401000468ef3cb0', 'hex'),
      ),
    )
    expect(lengthSize).toBe(4)
    expect(parseAvcSps(sps[0]!)).toMatchObject({
      profile: 'High',
      level: '4.0',
      chroma: '4:2:0',
      bitDepth: 8,
      width: 1920,
      height: 1080,
      frameMbsOnly: true,
      webCodec: 'avc1.640028',
    })
  })
  it('reads level 1b of High profiles, and gives decoders a level they know', () => {
    const sps = Uint8Array.from(Buffer.from('67640028acb403c0113f2c20000003002000000651e30654', 'hex'))
    sps[3] = 9
    expect(parseAvcSps(sps)).toMatchObject({ level: '1b', webCodec: 'avc1.64000b' })
    sps[3] = 11
    expect(parseAvcSps(sps)).toMatchObject({ level: '1.1', webCodec: 'avc1.64000b' })
  })
  it('reads High 4:2:2 Intra, 10 bit, interlaced 1080 lines, with colour and aspect', () => {
    const b = new Bits().ue(0).ue(2).ue(2).ue(2).u(0, 1).u(0, 1).ue(0).ue(0).ue(0).ue(0).u(0, 1)
    b.ue(119).ue(33).u(0, 1).u(0, 1).u(1, 1).u(1, 1).ue(0).ue(0).ue(0).ue(4)
    b.u(1, 1)
      .u(1, 1)
      .u(255, 8)
      .u(4, 16)
      .u(3, 16)
      .u(0, 1)
      .u(1, 1)
      .u(5, 3)
      .u(0, 1)
      .u(1, 1)
      .u(1, 8)
      .u(1, 8)
      .u(1, 8)
      .u(0, 1)
      .u(1, 1)
      .u(1, 32)
      .u(50, 32)
      .u(1, 1)
      .u(0, 4)
    const nal = Uint8Array.from([0x67, 122, 0x10, 41, ...b.bytes()])
    expect(parseAvcSps(nal)).toMatchObject({
      profile: 'High 4:2:2 Intra',
      level: '4.1',
      chroma: '4:2:2',
      bitDepth: 10,
      width: 1920,
      height: 1080,
      frameMbsOnly: false,
      pixelAspect: '4:3',
      colour: { primaries: 1, transfer: 1, matrix: 1 },
      timing: { num: 50, den: 2 },
    })
  })
  it('gives null for what is none', () => {
    expect(parseAvcSps(Uint8Array.from([0x68, 1, 2, 3, 4, 5]))).toBeNull()
    expect(parseAvcSps(Uint8Array.from([0x67, 100]))).toBeNull()
    expect(parseAvcSps(new Uint8Array(64).fill(255))).toBeNull()
  })
  it('removes emulation prevention', () =>
    expect([...unescapeNal(Uint8Array.from([1, 0, 0, 3, 1, 0, 0, 3]))]).toEqual([1, 0, 0, 1, 0, 0]))
  it('puts it in where it must be and nowhere else, whatever the bytes (property, 7.4.1)', () => {
    const bytes = fc.array(fc.oneof(fc.constant(0), fc.integer({ min: 0, max: 5 })), { maxLength: 40 })
    fc.assert(
      fc.property(bytes, (given) => {
        const escaped = [...escapeNal(Uint8Array.from(given))]
        const alike = (i: number) => escaped[i] === 0 && escaped[i + 1] === 0
        const at = escaped.map((_, i) => i).filter((i) => alike(i) && i + 2 < escaped.length)
        expect(at.every((i) => escaped[i + 2]! >= 3)).toBe(true)
        // three is put in only before what would else be a start, or one put in
        expect(at.filter((i) => escaped[i + 2] === 3).every((i) => escaped[i + 3]! <= 3)).toBe(true)
        expect([...unescapeNal(Uint8Array.from(escaped))]).toEqual(given)
        // of bytes as they are, too: whatever 3 stands behind two noughts goes
        const zeros = (i: number): number => (i > 0 && given[i - 1] === 0 ? 1 + zeros(i - 1) : 0)
        const left = given.filter((b, i) => b !== 3 || zeros(i) < 2)
        expect([...unescapeNal(Uint8Array.from(given))]).toEqual(left)
      }),
    )
  })
  it('reads exp-Golomb codes (9.1)', () => {
    const r = new BitReader(new Bits().ue(0).ue(1).ue(2).ue(254).ue(1).ue(2).bytes())
    expect([r.ue(), r.ue(), r.ue(), r.ue(), r.se(), r.se()]).toEqual([0, 1, 2, 254, 1, -1])
  })
})

describe('HEVC configuration', () => {
  it('reads Main 10, 1920×1080', () => {
    const sps = new Bits().u(0, 4).u(0, 3).u(1, 1)
    for (let i = 0; i < 11; i++) sps.u(0, 8)
    sps.u(123, 8).ue(0).ue(1).ue(1920).ue(1088).u(1, 1).ue(0).ue(0).ue(0).ue(4)
    const nal = Uint8Array.from([0x42, 0x01, ...sps.bytes()])
    const w = new Writer()
      .u8(1)
      .u8(2)
      .u32(0x20000000)
      .raw(Uint8Array.from([0x90, 0, 0, 0, 0, 0]))
      .u8(123)
      .u16(0xf000)
      .u8(0xfc)
      .u8(0xfc)
      .u8(0xfd)
      .u8(0xfa)
      .u8(0xfa)
      .u16(0)
      .u8(0x0f)
      .u8(1)
      .u8(33)
      .u16(1)
      .u16(nal.length)
      .raw(nal)
    expect(parseHevcConfiguration(w.bytes())).toMatchObject({
      profile: 'Main 10',
      level: '4.1',
      chroma: '4:2:0',
      bitDepth: 10,
      width: 1920,
      height: 1080,
      scan: 'progressive',
      webCodec: 'hvc1.2.4.L123.90',
    })
    // bytes 6 and on: progressive and interlaced sources, each a flag
    const scanOf = (flags: number) => {
      const bytes = w.bytes()
      bytes[6] = flags
      return parseHevcConfiguration(bytes)?.scan
    }
    expect([scanOf(0x40), scanOf(0), scanOf(0xc0)]).toEqual(['interlaced', null, null])
  })
})

describe('an HEVC sequence parameter set', () => {
  /** One as H.265 7.3.2.2.1 lays it out, with every part in front of the usability information that it may have. */
  const sps = (parts: { lists: boolean; pcm: boolean; sets: boolean; longTerm: number; colour: boolean }) => {
    const b = new Bits().u(0, 4).u(0, 3).u(1, 1).u(0, 32).u(0, 32).u(0, 32)
    b.ue(0).ue(1).ue(1920).ue(1088).u(1, 1).ue(0).ue(0).ue(0).ue(4)
    b.ue(2).ue(2).ue(4).u(1, 1).ue(4).ue(0).ue(0)
    for (let i = 0; i < 6; i++) b.ue(i % 3)
    b.u(parts.lists ? 1 : 0, 1)
    if (parts.lists) {
      b.u(1, 1)
      for (let size = 0; size < 4; size++)
        for (let m = 0; m < (size === 3 ? 2 : 6); m++) {
          b.u(m % 2, 1)
          if (m % 2 === 0) b.ue(0)
          else for (let n = (size > 1 ? 1 : 0) + Math.min(64, 1 << (4 + 2 * size)); n > 0; n--) b.ue(n % 5)
        }
    }
    b.u(0, 2).u(parts.pcm ? 1 : 0, 1)
    if (parts.pcm) b.u(7, 4).u(7, 4).ue(0).ue(2).u(0, 1)
    b.ue(parts.sets ? 3 : 0)
    // two before and one after; the same moved by one, which drops the picture itself; from that again
    if (parts.sets) {
      b.ue(2).ue(1).ue(0).u(1, 1).ue(1).u(1, 1).ue(0).u(1, 1)
      b.u(1, 1).u(1, 1).ue(0).u(1, 1).u(1, 1).u(1, 1).u(0, 1).u(1, 1)
      b.u(1, 1).u(0, 1).ue(1).u(1, 1).u(0, 1).u(0, 1).u(1, 1).u(1, 1)
    }
    b.u(parts.longTerm ? 1 : 0, 1)
    if (parts.longTerm) b.ue(parts.longTerm)
    for (let i = 0; i < parts.longTerm; i++) b.u(i, 8).u(1, 1)
    b.u(0, 2).u(1, 1)
    b.u(1, 1)
      .u(14, 8)
      .u(0, 1)
      .u(1, 1)
      .u(5, 3)
      .u(1, 1)
      .u(parts.colour ? 1 : 0, 1)
    if (parts.colour) b.u(9, 8).u(16, 8).u(9, 8)
    return readHevcSps(Uint8Array.of(66, 1, ...b.u(0, 8).bytes()))
  }
  it('gives its colour and aspect, whatever stands before them (property)', () => {
    fc.assert(
      fc.property(
        fc.record({
          lists: fc.boolean(),
          pcm: fc.boolean(),
          sets: fc.boolean(),
          longTerm: fc.nat(6),
          colour: fc.boolean(),
        }),
        (parts) => {
          const code = parts.colour
            ? { primaries: 9, transfer: 16, matrix: 9 }
            : { primaries: 2, transfer: 2, matrix: 2 }
          expect(sps(parts)).toEqual({
            ...{ width: 1920, height: 1080, pixelAspect: '4:3' },
            colour: { ...code, fullRange: true },
          })
        },
      ),
    )
  })
  it('ends on any bytes (property)', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => void readHevcSps(bytes)))
  })
})

describe('AAC configuration', () => {
  it.each([
    ['1190', 2, 48000, 2, 1024],
    ['1210', 2, 44100, 2, 1024],
    ['1188', 2, 48000, 1, 1024],
    ['11b0', 2, 48000, 6, 1024],
    ['1194', 2, 48000, 2, 960],
    // an extension that says that there is none
    ['131056e500', 2, 24000, 2, 1024],
  ])('%s', (hex, objectType, sampleRate, channels, packetSamples) => {
    expect(parseAudioSpecificConfig(Uint8Array.from(Buffer.from(hex, 'hex')))).toEqual({
      ...{ objectType, sampleRate, channels, packetSamples },
      core: { sampleRate, channels },
    })
  })
  it.each([
    ['bands replicated, said at once', '2b118800', 5, 2, 2],
    ['bands replicated, said where older decoders do not look', '131056e598', 2, 2, 2],
    ['stereo made of one channel', 'eb098800', 29, 2, 1],
    ['stereo made of one channel, said where older decoders do not look', '130856e59d4880', 2, 2, 1],
  ])('has the rate and channels that are heard: %s', (_, hex, objectType, channels, coded) => {
    expect(parseAudioSpecificConfig(Uint8Array.from(Buffer.from(hex, 'hex')))).toEqual({
      ...{ objectType, sampleRate: 48000, channels, packetSamples: 2048 },
      core: { sampleRate: 24000, channels: coded },
    })
  })
  it('finds it inside esds, whatever the length of the length', () => {
    const esds = Uint8Array.from([
      0, 0, 0, 0, 3, 0x80, 0x80, 0x80, 22, 0, 1, 0, 4, 0x80, 0x80, 0x80, 17, 0x40, 0x15, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0,
      0, 5, 2, 0x11, 0x90,
    ])
    expect([...decoderSpecificInfo(esds)!]).toEqual([0x11, 0x90])
  })
})
