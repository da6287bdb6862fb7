import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BitWriter } from '../../bits'
import { kernel } from '../../kernel/kernel'
import { noise } from '../../kernel/noise'
import { makeRate } from '../../time/rate'
import { decodeFrame } from './decode'
import { FrameFault, frameHead } from './headers'
import { Bits } from './blocks'
import { rdd36 } from './codec'
import { frameOf, putCode, type FrameWanted } from './samples'
import { firstMean, means, runs, scanOf, sizes } from './tables'

const grain = noise(new Uint8Array(64 * 64), 40, 3)
/** Waves and grain; fields and planes apart. */
const drawn = (plane: number, x: number, y: number) =>
  Math.round(512 + 300 * Math.sin(x / 7 + plane) * Math.cos(y / 9) + grain[(y % 64) * 64 + (x % 64)]! + 60 * (y & 1))
const wanted: FrameWanted = { width: 80, height: 48, sample: drawn, index: 1 }

/** The greatest difference of any sample of a plane. */
function farthest(frame: FrameWanted, loops = kernel()): number[] {
  const { planes } = decodeFrame(frameOf(frame), loops)
  return planes.map((plane, k) => {
    const width = k === 0 ? frame.width : (frame.width + 1) >> 1
    let most = 0
    plane.forEach((v, i) => (most = Math.max(most, Math.abs(v - frame.sample(k, i % width, Math.floor(i / width))))))
    return most
  })
}

describe('codes', () => {
  it('are those of the standard, by zeros in front, order of Rice and of exponential Golomb', () => {
    // last zeros in two bits, order of exponential Golomb in three, of Rice in three
    const packed = [[firstMean], means, runs, sizes].map((list) =>
      list.map((c) => c.last | (c.exponent << 2) | (c.rice << 5)),
    )
    expect(packed).toEqual([
      [0xb8],
      [0x04, 0x28, 0x4d, 0x70],
      [0x06, 0x06, 0x05, 0x05, 0x04, 0x29, 0x29, 0x29, 0x29, 0x28, 0x28, 0x28, 0x28, 0x28, 0x28, 0x4c],
      [0x0a, 0x05, 0x06, 0x04, 0x28, 0x28, 0x28, 0x28, 0x4c],
    ])
  })
  it.each([
    [means[0]!, ['1', '010', '011', '00100']],
    [means[1]!, ['10', '11', '0100', '0101', '0110', '0111', '001000']],
    // Rice of order 2 up to one zero, exponential Golomb of order 3 beyond
    [means[2]!, ['100', '101', '110', '111', '0100', '0101', '0110', '0111', '001000', '001001']],
    [runs[0]!, ['1', '01', '001', '00010', '00011', '0000100']],
  ])('%j', (code, texts) =>
    texts.forEach((text, v) => {
      const w = new BitWriter()
      putCode(w, code, v)
      expect(w.length).toBe(text.length)
      const bytes = w.finish()
      expect(
        [...bytes]
          .map((b) => b.toString(2).padStart(8, '0'))
          .join('')
          .slice(0, text.length),
      ).toBe(text)
      expect(new Bits(bytes, 0, bytes.length).code(code)).toBe(v)
    }),
  )
  it('of every coefficient once: both orders are whole', () => {
    for (const fields of [false, true])
      expect([...scanOf(fields)].sort((a, b) => a - b)).toEqual(Array.from({ length: 64 }, (_, k) => k))
  })
})

describe('frames', () => {
  it('of a grey of one level are that level: the mean of 512 is nothing', () => {
    for (const level of [64, 512, 940]) {
      const { planes } = decodeFrame(frameOf({ width: 32, height: 16, sample: () => level }))
      expect(planes.map((p) => [...new Set(p)])).toEqual([[level], [level], [level]])
    }
  })
  it('are read as they are made by hand: a macroblock whose luma is eight 32nds of four over the mean', () => {
    // 1 10000, 1 000, 1, 1: the first mean is 8, and the three others are the same; of chroma they are 0
    const slice = [6 << 3, 1, 0, 2, 0, 2, 0b11000010, 0b00110000, 0b10000010, 0, 0b10000010, 0]
    const picture = [8 << 3, 0, 0, 0, 8 + 2 + 12, 0, 1, 0, 0, 12, ...slice]
    const head = [0, 20, 0, 0, 0, 0, 0, 0, 0, 16, 0, 16, 0x80, 0, 2, 2, 2, 0, 0, 0]
    const unit = Uint8Array.of(0, 0, 0, 8 + 20 + 22, 0x69, 0x63, 0x70, 0x66, ...head, ...picture)
    for (const loops of [kernel(), null])
      expect(decodeFrame(unit, loops).planes.map((p) => [...new Set(p)])).toEqual([[513], [512], [512]])
  })
  it.each([
    ['4:2:2', {}],
    ['of sizes that are no whole macroblocks', { width: 70, height: 39 }],
    ['of slices of one macroblock', { slice: 1 }],
    ['of slices of four, and what is left', { slice: 4, width: 112 }],
    ['of fields, the upper first', { fields: 'upper first' as const }],
    ['of fields, the lower first, of an odd number of lines', { fields: 'lower first' as const, height: 47 }],
    ['with alpha behind', { alpha: Uint8Array.of(1, 2, 3, 4) }],
    ['with weights of its own', { weights: [new Uint8Array(64).fill(2), new Uint8Array(64).fill(3)] as const }],
  ])('%s come out as they went in, but for a code', (_, more) =>
    expect(Math.max(...farthest({ ...wanted, ...more }))).toBeLessThanOrEqual(1),
  )
  it('coarsely quantised are less near', () => {
    const [fine, coarse] = [1, 140].map((index) => farthest({ ...wanted, index })[0]!)
    expect(coarse).toBeGreaterThan(fine! + 5)
  })
  it('of 4:4:4 give chroma around every other sample, 1:2:1', () => {
    const sample = (plane: number, x: number, y: number) => (plane === 1 ? 400 + x + 3 * y : drawn(plane, x, y))
    const { planes, chroma } = decodeFrame(frameOf({ ...wanted, full: true, sample }))
    expect(chroma).toBe('4:2:2')
    for (const [x, y] of [
      [0, 0],
      [3, 5],
      [20, 33],
      [39, 47],
    ] as const) {
      const at = (dx: number) => sample(1, Math.max(0, Math.min(79, 2 * x + dx)), y)
      expect(Math.abs(planes[1]![y * 40 + x]! - (at(-1) + 2 * at(0) + at(1)) / 4)).toBeLessThanOrEqual(1.5)
    }
  })
  it('never have the codes that interfaces keep for themselves', () => {
    const sample = (_: number, x: number, y: number) => (((x >> 2) + (y >> 2)) % 2 ? 1200 : -200)
    for (const plane of decodeFrame(frameOf({ ...wanted, sample, index: 8 })).planes) {
      expect(Math.min(...plane)).toBe(4)
      expect(Math.max(...plane)).toBe(1019)
    }
  })
  it('are read by the kernel as by the plain reference, sample for sample (property)', () => {
    const kinds = fc.record({
      width: fc.integer({ min: 1, max: 130 }),
      height: fc.integer({ min: 2, max: 50 }),
      full: fc.boolean(),
      fields: fc.constantFrom(undefined, 'upper first' as const, 'lower first' as const),
      slice: fc.constantFrom(1, 2, 4, 8),
      index: fc.constantFrom(1, 7, 130, 224),
      seed: fc.nat(1000),
    })
    fc.assert(
      fc.property(kinds, ({ seed, fields, ...kind }) => {
        const grains = noise(new Uint8Array(4096), 255, seed)
        const sample = (plane: number, x: number, y: number) => 4 * grains[(x * 7 + y * 131 + plane * 977) % 4096]!
        const unit = frameOf({ ...kind, ...(fields ? { fields } : {}), sample })
        const [fast, plain] = [decodeFrame(unit), decodeFrame(unit, null)]
        expect(fast.planes.every((p, k) => Buffer.compare(Buffer.from(p), Buffer.from(plain.planes[k]!)) === 0)).toBe(
          true,
        )
      }),
      { numRuns: 40 },
    )
  })
})

describe('what a frame says', () => {
  const said = (f: Partial<FrameWanted>) => rdd36.describe(null, frameOf({ ...wanted, ...f }))
  it('of itself', () => {
    expect(said({ codes: { aspect: 1, rate: 3, colour: [9, 16, 9] } })).toEqual({
      ...{ width: 80, height: 48, chroma: '4:2:2', bitDepth: 10, scan: 'progressive', pixelAspect: '1:1' },
      colour: { primaries: 9, transfer: 16, matrix: 9, fullRange: false },
      ...{ timing: makeRate(25), webCodec: null },
    })
    expect(said({ full: true, alpha: Uint8Array.of(1), fields: 'lower first' })).toMatchObject({
      ...{ chroma: '4:4:4', bitDepth: 12, alpha: true, scan: 'interlaced-bff', timing: null, pixelAspect: null },
    })
    expect(said({ codes: { colour: [0, 2, 0] } }).colour).toBeNull()
    // 16:9 of 80×48
    expect(said({ codes: { aspect: 3, rate: 4 } })).toMatchObject({
      pixelAspect: '16:15',
      timing: makeRate(30000, 1001),
    })
  })
  it('is nothing where it is none', () => {
    expect(rdd36.describe(null, null)).toEqual({})
    expect(rdd36.describe(null, new Uint8Array(200))).toEqual({})
  })
})

describe('damage', () => {
  const unit = frameOf(wanted)
  const changed = (at: number, v: number) => unit.map((b, i) => (i === at ? v : b))
  const fault = (bytes: Uint8Array) => {
    try {
      decodeFrame(bytes)
    } catch (e) {
      if (e instanceof FrameFault) return [e.message, e.byte]
      throw e
    }
    return null
  }
  it('is said with its place', () => {
    const { end } = frameHead(unit)
    expect(fault(unit.subarray(0, unit.length - 1))).toEqual([`${unit.length - 1} bytes of ${unit.length}`, 0])
    expect(fault(changed(4, 0))).toEqual(['no frame of this kind', 4])
    expect(fault(changed(11, 2))).toEqual(['version 2 of its syntax', 10])
    expect(fault(changed(20, 0x8c))).toEqual(['interlace mode 3', 20])
    expect(fault(changed(27, 2))?.[1]).toBe(8)
    expect(fault(changed(end, 0))).toEqual(['the header of a picture', end])
    expect(fault(new Uint8Array(3))).toEqual(['it ends too early', 3])
  })
  it('of a slice is found by its codes, by the kernel as plainly', () => {
    const { end } = frameHead(unit)
    const slice = end + 8 + 2 * 3
    // its luma said to be shorter than it is
    const cut = changed(slice + 3, unit[slice + 3]! >> 1)
    expect(fault(cut)).not.toBeNull()
    expect(() => decodeFrame(cut, null)).toThrow(FrameFault)
  })
  it('of bytes that are noughts where there were others is found', () => {
    const hole = unit.slice()
    hole.fill(0, unit.length - 40, unit.length - 2)
    expect(fault(hole)?.[0]).toBe('a code that there is not')
  })
  it('whatever is changed, it is a picture or a fault (property)', () =>
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(unit.length - 1), fc.nat(255)), { maxLength: 6 }), (changes) => {
        const bytes = unit.slice()
        for (const [at, v] of changes) bytes[at] = v
        // a size of its own is what would take long
        bytes.set(unit.subarray(16, 20), 16)
        const found = fault(bytes)
        if (found) expect(found[1]).toBeLessThanOrEqual(bytes.length)
      }),
      { numRuns: 2000 },
    ))
})
