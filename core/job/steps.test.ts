import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shippedRecipes, type RecipeKind } from '../recipe/recipe'
import { makeRate } from '../time/rate'
import { forecastSeconds, planTasks, taskText } from './steps'

const timeline = { id: '', show: '', name: '', rate: makeRate(25), dropFrame: false, start: 0, length: 100_000 }
const item = (kind: RecipeKind, from: number, to: number) => ({
  recipe: shippedRecipes.find((r) => r.kind === kind)!,
  timeline,
  region: { id: '', name: '', metadata: {}, in: from, out: to },
})

describe('plans', () => {
  it('cover every frame once, need only what comes before, and end with the proof', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<RecipeKind>('rewrap', 'master', 'viewing', 'sound'),
        fc.nat(1000),
        fc.integer({ min: 1, max: 3000 }),
        (kind, from, length) => {
          const tasks = planTasks(item(kind, from, from + length))
          const seen = new Set<string>()
          for (const t of tasks) {
            for (const n of t.needs) expect(seen.has(n)).toBe(true)
            expect(seen.has(t.key)).toBe(false)
            seen.add(t.key)
          }
          expect(tasks.at(-1)!.kind).toBe('prove')
          const segments = tasks.filter((t) => t.kind === 'segment')
          if (segments.length) {
            expect(segments[0]!.range.in).toBe(from)
            expect(segments.at(-1)!.range.out).toBe(from + length)
            segments.forEach((s, i) => i && expect(s.range.in).toBe(segments[i - 1]!.range.out))
          }
        },
      ),
    )
  })
  it('cut long encodes into segments that can be worked on at the same time', () => {
    expect(planTasks(item('viewing', 0, 250)).map((t) => t.key)).toEqual([
      'segment-0',
      'segment-1',
      'segment-2',
      'sound',
      'join',
      'prove',
    ])
    expect(planTasks(item('master', 0, 125)).map((t) => t.key)).toEqual([
      'segment-0',
      'segment-1',
      'segment-2',
      'prove',
    ])
  })
  it('leave the sound out where there is none', () => {
    const silent = item('viewing', 0, 10)
    expect(planTasks({ ...silent, recipe: { ...silent.recipe, channels: 'none' } }).map((t) => t.key)).toEqual([
      'segment-0',
      'join',
      'prove',
    ])
  })
  it('say their steps in words and forecast their time', () => {
    expect(planTasks(item('sound', 0, 10)).map(taskText)).toEqual([
      'write the sound',
      'read the file back, measure and judge it, make checksums',
    ])
    expect(forecastSeconds(item('master', 0, 3000), 1920 * 1080)).toBeGreaterThan(
      forecastSeconds(item('master', 0, 3000), 1280 * 720),
    )
    expect(forecastSeconds(item('master', 0, 300), 1920 * 1080, { segment: 1000, prove: 1000 })).toBeCloseTo(0.6, 5)
  })
})
