import { describe, expect, it } from 'vitest'
import type { MediaInfo, VideoInfo } from '../media/media'
import type { Output } from '../recipe/output'
import { memoryNeed, mostMemory } from './memory'

const hd = { codec: 'h264', width: 1920, height: 1080, chroma: '4:2:0', bitDepth: 8 } as const
const uhd = { ...hd, width: 3840, height: 2160 } as const
const v210 = { ...hd, codec: 'v210', chroma: '4:2:2', bitDepth: 10 } as const
type Shape = Pick<VideoInfo, 'codec' | 'width' | 'height' | 'chroma' | 'bitDepth'>

const need = (from: Shape | null, to: Shape | null) =>
  memoryNeed({ video: from ? [from] : [] } as unknown as MediaInfo, to as Output['video'])

describe('the memory of a worker', () => {
  // peaks of worker processes, MB, two to five seconds of pictures
  it.each([
    ['a viewing copy of coded pictures', hd, hd, 407],
    ['smaller', hd, { ...hd, width: 1280, height: 720 }, 363],
    ['larger', hd, uhd, 689],
    ['an uncompressed master', hd, v210, 395],
    ['a class 100 master', hd, { ...v210, codec: 'h264-intra' }, 420],
    ['an uncompressed source', v210, hd, 292],
    ['sound alone of coded pictures', hd, null, 299],
  ] as const)('is about what it was measured to be for %s', (_, from, to, measured) => {
    const { shared, own } = need(from, to)
    expect((shared + own) / 1e6).toBeGreaterThan(measured * 0.96)
    expect((shared + own) / 1e6).toBeLessThan(measured * 1.5)
  })
  it('is of all that is made from the same pictures together, and of no more than are taken together', () => {
    const memory = need(hd, hd)
    const small = need(hd, null)
    expect(mostMemory([])).toBe(0)
    expect(mostMemory([{ reads: null, memory }])).toBe(memory.shared + memory.own)
    const alike = (n: number) => Array.from({ length: n }, () => ({ reads: 'reel 0–100', memory }))
    expect(mostMemory([...alike(2), { reads: null, memory: small }])).toBe(memory.shared + 2 * memory.own)
    expect(mostMemory([...alike(2), { reads: 'reel 100–200', memory }])).toBe(memory.shared + 2 * memory.own)
    expect(mostMemory(alike(9))).toBe(memory.shared + 4 * memory.own)
  })
})
