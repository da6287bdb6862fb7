import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { drain, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import { makeScenes } from '../../tests/scenes'
import type { Session } from '../session'
import type { SplitTimeline } from '../../core/split/timeline'

// What is heard of a timeline, and how loud its channels are, before and after its sound was gone through.

const { folder, remove } = scratchFolder()
const frames = 120
const level = (c: number, frame: number) => (frame < 60 ? 0.1 : 0.5) / (c + 1)
/** Four channels of square waves, twice as quiet each, louder in the second half; the last one is silent. */
const channels = Array.from({ length: 4 }, (_, c) =>
  Float32Array.from({ length: frames * 1920 }, (_v, i) =>
    c === 3 ? 0 : level(c, Math.floor(i / 1920)) * (Math.floor(i / 480) % 2 ? -1 : 1),
  ),
)
let engine: Session
let t: SplitTimeline
beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  await smallReel(path.join(folder, 'storage', 'four.mov'), { channels })
  engine = await testEngine(folder)
  t = await engine.timelines.bringIn({ root: 'storage', path: 'four.mov' })
})
afterAll(async () => {
  await engine.close()
  remove()
})
const samples = (wav: Buffer, count: number) => {
  const at = wav.indexOf('data') + 8
  return Array.from({ length: count }, (_, i) => wav.readInt16LE(at + 2 * i) / 32768)
}

describe('levels', () => {
  it('are those of each frame and channel, the same when they were kept as when they are measured', async () => {
    const measured = await engine.viewing.levels(t, 50, 70)
    expect([measured.channels, measured.first, measured.peaks.length]).toEqual([4, 50, 20])
    await drain(engine)
    const kept = await engine.viewing.levels(t, 50, 70)
    // a filter that starts anew differs within its first frame
    expect(kept.peaks.slice(1)).toEqual(measured.peaks.slice(1))
    for (const [n, c] of [
      [3, 0],
      [3, 1],
      [15, 0],
      [15, 2],
    ] as const) {
      const peak = kept.peaks[n]![c]!
      // a square wave overshoots between its samples
      expect(peak).toBeGreaterThanOrEqual(level(c, 50 + n) * 0.999)
      expect(peak).toBeLessThan(level(c, 50 + n) * 1.5)
    }
    expect(kept.peaks.map((p) => p[3])).toEqual(Array(20).fill(0))
  })
  it('end with the timeline; what lies outside is refused', async () => {
    expect((await engine.viewing.levels(t, 110, 500)).peaks).toHaveLength(10)
    await expect(engine.viewing.levels(t, 20, 20)).rejects.toMatchObject({ problem: { code: 'frame.outside' } })
  })
})

describe('listening', () => {
  const first = async (heard?: number[]) => {
    const wav = await engine.viewing.listen(t, 0, 2, heard)
    return [wav.readUInt16LE(wav.indexOf('fmt ') + 10), ...samples(wav, 2).map((v) => Math.round(v * 1000) / 1000)]
  }
  it('hears the first two channels, any one on both sides, or several, in turn left and right', async () => {
    expect(await first()).toEqual([2, 0.1, 0.05])
    expect(await first([1])).toEqual([1, 0.05, 0.05])
    expect(await first([2, 0])).toEqual([2, 0.033, 0.1])
    // left is the mean of the first and the third
    expect(await first([0, 1, 2, 3])).toEqual([2, 0.067, 0.025])
    expect(await first([9])).toEqual([2, 0.1, 0.05])
  })
  it('brings those of a mix in surround together, none louder than the loudest could be', async () => {
    const file = path.join(folder, 'storage', 'film.mov')
    await makeScenes(file, [[1, 0, 10]], ['L C R Ls Rs LFE'], [0.1, 0.5, 0.2, 0.1, 0.3, 0.9])
    const film = await engine.timelines.bringIn({ root: 'storage', path: 'film.mov' })
    const peaks = async (heard: number[]) => {
      const all = samples(await engine.viewing.listen(film, 0, 10, heard), 2 * 9600)
      return [0, 1].map((side) => Math.max(...all.filter((_, i) => i % 2 === side)) * (1 + Math.SQRT2))
    }
    const [left, right] = await peaks([0, 1, 2, 3, 4])
    expect(left).toBeCloseTo(0.1 + 0.6 * Math.SQRT1_2, 2)
    expect(right).toBeCloseTo(0.2 + 0.8 * Math.SQRT1_2, 2)
    // the LFE is heard where it is asked for: beside the others of its side
    expect((await peaks([0, 1, 5]))[0]! / (1 + Math.SQRT2)).toBeCloseTo(0.5, 2)
    // some of them by their shares as well
    expect((await peaks([0, 2, 4]))[0]).toBeCloseTo(0.1, 2)
  })
})
