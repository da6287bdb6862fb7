import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BitWriter } from '../bits'
import { bt709 } from '../media/colour'
import { describeAv1 } from './av1/describe'
import { describeVp9 } from './vp9/describe'
import { vp8 } from './vp8/codec'

const bytes = (hex: string) => Uint8Array.from(Buffer.from(hex, 'hex'))
const size = { width: 320, height: 180 }
const matrix709 = { primaries: 2, transfer: 2, matrix: 1, fullRange: false }

// first frames of 320×180 as Chromium writes them, told that their colour is BT.709
const vp9Units = {
  'Profile 0': bytes('824983424013f00b360638241c184600010047d8fd620cdbe93c390ebda3b0bf40006b3dd3'),
  'Profile 2': bytes('924983422009f8059b031c120e0c2a00007847d8cf79ea31413757fe14347b80006b359a57'),
}
const av1Units = {
  Main: bytes('12000a0d000000043cfecc01a202020208323f104380030c30c4020800b45acca001f1358a'),
  High: bytes('12000a0d200000043cfecc01a4040404403240104380030c30c4020800b45acca001abfb38'),
}

describe('VP9', () => {
  it('says its depth, chroma, size and matrix in its first frame', () => {
    expect(describeVp9(null, vp9Units['Profile 0'])).toEqual({
      ...{ ...size, profile: 'Profile 0', bitDepth: 8, chroma: '4:2:0', colour: matrix709, scan: 'progressive' },
      webCodec: 'vp09.00.40.08',
    })
    expect(describeVp9(null, vp9Units['Profile 2'])).toMatchObject({
      ...{ ...size, profile: 'Profile 2', bitDepth: 10, chroma: '4:2:0', webCodec: 'vp09.02.40.10' },
    })
  })
  it('says more in the box of MP4 files, and less in the list of Matroska', () => {
    // profile 3, level 4.1, 12 bits of 4:2:2 in full range, BT.2020
    const box = bytes('01000000' + '03' + '29' + 'c5' + '09' + '0e' + '09' + '0000')
    expect(describeVp9(box, null)).toEqual({
      ...{ profile: 'Profile 3', level: '4.1', bitDepth: 12, chroma: '4:2:2', webCodec: 'vp09.03.41.12' },
      scan: 'progressive',
      colour: { primaries: 9, transfer: 14, matrix: 9, fullRange: true },
    })
    expect(describeVp9(bytes('010102' + '02011f' + '03010a' + '040101'), null)).toEqual({
      ...{ profile: 'Profile 2', level: '3.1', bitDepth: 10, chroma: '4:2:0', webCodec: 'vp09.02.31.10' },
      scan: 'progressive',
    })
  })
  it('is decoded by a usual level where its box says none, as Chromium writes it', () =>
    expect(describeVp9(bytes('01000000' + '00' + '00' + '82' + '010101' + '0000'), null)).toMatchObject({
      ...{ bitDepth: 8, chroma: '4:2:0', colour: bt709, webCodec: 'vp09.00.40.08' },
    }))
  it('says R′G′B′ and full range', () => {
    const w = new BitWriter()
    // a frame marker, profile 1, a key frame that is shown
    w.u(2, 2).u(2, 2).u(4, 0b0010).u(24, 0x498342).u(3, 7).u(1, 0).u(16, 319).u(16, 179).u(32, 0)
    expect(describeVp9(null, w.stop())).toMatchObject({
      ...{ ...size, chroma: '4:4:4', bitDepth: 8, colour: { matrix: 0, fullRange: true } },
    })
  })
  it('says nothing where it does not begin with a key frame', () => {
    expect(describeVp9(null, bytes('86004092'))).toEqual({ webCodec: 'vp09.00.40.08', scan: 'progressive' })
    expect(describeVp9(null, null)).toEqual({ webCodec: 'vp09.00.40.08', scan: 'progressive' })
    expect(describeVp9(bytes('0101'), null)).toEqual({ webCodec: 'vp09.00.40.08', scan: 'progressive' })
  })
})

describe('AV1', () => {
  it('says its depth, chroma, size, level and colour in its sequence header', () => {
    expect(describeAv1(null, av1Units.Main)).toEqual({
      ...{ ...size, profile: 'Main', level: '2.0', bitDepth: 8, chroma: '4:2:0', colour: bt709, scan: 'progressive' },
      webCodec: 'av01.0.00M.08',
    })
    expect(describeAv1(null, av1Units.High)).toMatchObject({
      ...{ ...size, profile: 'High', chroma: '4:4:4', colour: bt709, webCodec: 'av01.1.00M.08' },
    })
  })
  it('says it behind four bytes of a configuration as well, as the codec package gives it', () => {
    expect(describeAv1(bytes('81080c000a0b000000043cfeccfff98040'), null)).toMatchObject({
      ...{ ...size, bitDepth: 8, chroma: '4:2:0', colour: null },
    })
  })
  it('says less where a configuration is all there is', () =>
    expect(describeAv1(bytes('814d4c00'), null)).toEqual({
      ...{ profile: 'Professional', level: '5.1', bitDepth: 10, chroma: '4:2:0', scan: 'progressive' },
      webCodec: 'av01.2.13M.10',
    }))
  it('of 10 bits, with timing, several points and all flags, is read to its end', () => {
    const w = new BitWriter()
    // profile 2; timing that is even, a model of the decoder with delays of 5 bits
    w.u(3, 2).u(2, 0).u(1, 1).u(32, 1).u(32, 50).u(1, 1).u(1, 1).u(1, 1).u(5, 4).u(32, 1).u(10, 0)
    // delays are shown; two points, the first of level 5.1 and high tier
    w.u(1, 1).u(5, 1).u(12, 0).u(5, 13).u(1, 1).u(1, 1).u(11, 0).u(1, 1).u(4, 0).u(12, 0).u(5, 0).u(1, 0).u(1, 0)
    // 1920×1080, frame identifiers, no tools but order hints
    w.u(4, 10).u(4, 10).u(11, 1919).u(11, 1079).u(1, 1).u(7, 0).u(3, 0)
    w.u(4, 0).u(1, 1).u(2, 0).u(1, 0).u(1, 1).u(1, 0).u(1, 0).u(3, 6).u(3, 0)
    // 10 bits of 4:2:2 in BT.2100 PQ, full range
    w.u(1, 1).u(1, 0).u(1, 0).u(1, 1).u(8, 9).u(8, 16).u(8, 9).u(1, 1)
    const header = w.stop()
    const unit = Uint8Array.of(0x0a, header.length, ...header)
    expect(describeAv1(null, unit)).toEqual({
      ...{ width: 1920, height: 1080, profile: 'Professional', level: '5.1', bitDepth: 10, chroma: '4:2:2' },
      colour: { primaries: 9, transfer: 16, matrix: 9, fullRange: true },
      ...{ webCodec: 'av01.2.13H.10', scan: 'progressive' },
    })
  })
  it('says nothing where there is no sequence header, or it breaks off', () => {
    for (const given of [bytes('1200'), av1Units.Main.subarray(0, 8), bytes('0a')])
      expect(describeAv1(null, given)).toEqual({ webCodec: 'av01.0.08M.08', scan: 'progressive' })
  })
})

it('VP8 is always of 8 bits, 4:2:0', () =>
  expect(vp8.describe(null, null)).toMatchObject({ bitDepth: 8, chroma: '4:2:0', scan: 'progressive' }))

it('whatever the bytes, something is said and nothing hangs (property)', () => {
  const start = fc.constantFrom(...Object.values(vp9Units), ...Object.values(av1Units), new Uint8Array(0))
  fc.assert(
    fc.property(start, fc.uint8Array({ maxLength: 24 }), fc.nat(30), (good, noise, at) => {
      const given = Uint8Array.from([...good.subarray(0, at), ...noise])
      for (const [a, b] of [[given, null] as const, [null, given] as const]) {
        expect(describeVp9(a, b).webCodec).toMatch(/^vp09\.\d\d\.\d\d+\.\d\d$/)
        expect(describeAv1(a, b).webCodec).toMatch(/^av01\.\d\.\d\d[MH]\.\d\d$/)
      }
    }),
    { numRuns: 2000 },
  )
})
