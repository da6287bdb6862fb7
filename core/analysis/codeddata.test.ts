import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { codedData } from './codeddata'
import { codedWithin, faultsWithin, soundFaults } from './soundfaults'
import { soundMeter } from './sound'

const second = 48_000
const length = 3 * second

/** Preambles by their depth (SMPTE ST 337), as they stand in words of 24 bits. */
const preambles = { 16: [0xf87200, 0x4e1f00], 20: [0x6f8720, 0x54e1f0], 24: [0x96f872, 0xa54e1f] } as const
type Depth = keyof typeof preambles
const sample = (word: number) => (word >= 2 ** 23 ? word - 2 ** 24 : word) / 2 ** 23

/** A second of silence, one of bursts every 1920 samples, and one of silence: in a pair of channels, or in one. */
function bursts(depth: Depth, channels: 1 | 2): Float32Array[] {
  const out = Array.from({ length: channels }, () => new Float32Array(length))
  for (let at = second; at < 2 * second; at += 1920) {
    const words = [
      ...preambles[depth],
      0x001c00,
      0x400000,
      ...Array.from({ length: 600 }, (_, i) => (i * 7919) % 2 ** 24),
    ]
    words.forEach((w, i) => (out[i % channels]![at + Math.floor(i / channels)] = sample(w)))
  }
  return out
}
const tone = () => Float32Array.from({ length }, (_, i) => 0.1 * Math.sin((2 * Math.PI * 440 * i) / second))

function found(channels: readonly Float32Array[], block: number) {
  const m = codedData(channels.length, second)
  for (let at = 0; at < length; at += block) m.feed(channels.map((c) => c.subarray(at, at + block)))
  return m.result()
}

describe('data in the place of sound', () => {
  it.each([16, 20, 24] as const)('is found by preambles of %d bits, in a pair of channels or in one', (depth) => {
    const all = [{ in: second, out: 2 * second, apart: 1920 }]
    for (const block of [997, 4800, length]) {
      expect(found([tone(), ...bursts(depth, 2), tone()], block)).toEqual([[], all, all, []])
      expect(found([tone(), ...bursts(depth, 1)], block)).toEqual([[], all])
    }
  })
  it('is the same however it is cut into blocks', () => {
    const sound = [...bursts(24, 2), ...bursts(16, 1)]
    const whole = found(sound, length)
    const cut = fc.integer({ min: 1, max: 9999 })
    fc.assert(
      fc.property(cut, (block) => {
        expect(found(sound, block)).toEqual(whole)
      }),
      { numRuns: 12 },
    )
  })
  it('is not made of a preamble alone, nor of sound', () => {
    const alone = new Float32Array(length)
    for (const at of [9, 99_999]) preambles[24].forEach((w, i) => (alone[at + i] = sample(w)))
    expect(found([alone, tone()], 4800)).toEqual([[], []])
  })
})

describe('what is heard where there is data', () => {
  const shape = { channels: 4, sampleRate: second, rate: makeRate(25) }
  const heard = (channels: readonly Float32Array[], layout: string | null = null) => {
    const m = soundMeter({ ...shape, channels: channels.length }, layout)
    m.feed(channels)
    return { ...m.result(), trouble: m.trouble() }
  }
  it('is the sound of the other channels, whose loudness and true peak stay what they are', () => {
    const [plain, coded] = [heard([tone(), tone(), tone(), tone()]), heard([tone(), tone(), ...bursts(24, 2)])]
    expect(coded.coded).toEqual({ channels: [2, 3], counted: false })
    expect([coded.integrated, coded.truePeak]).toEqual([plain.integrated, plain.truePeak])
    expect(coded.trouble).toMatchObject({ data: [{ in: 25, out: 50 }], clicks: [], dropouts: [] })
    expect(plain.coded).toBeUndefined()
  })
  it('has no loudness where it counts them', () => {
    const none = { integrated: null, range: null, momentaryMax: null, shortTermMax: null }
    const coded = { channels: [0, 1], counted: true }
    expect(heard([...bursts(20, 2), tone(), tone()])).toMatchObject({ ...none, coded })
  })
  it('has no faults where its first burst has lost its beginning', () => {
    const cut = bursts(24, 2).map((c) => c.slice(second + 100))
    const m = soundFaults(2, second)
    m.feed(cut)
    expect(m.result().map((d) => [d.clicks, d.dropouts, d.data[0]!.in])).toEqual([
      [[], [], 1820],
      [[], [], 1820],
    ])
  })
  it('belongs to those parts that it reaches into', () => {
    const m = soundFaults(2, second)
    m.feed(bursts(24, 2))
    const damage = m.result()
    expect(codedWithin(damage, { in: 0, out: second })).toEqual([])
    expect(codedWithin(damage, { in: second + 100, out: length })).toEqual([0, 1])
    expect(faultsWithin(damage, { in: second - 100, out: second + 50 }).data).toEqual([{ in: 100, out: 150 }])
  })
})
