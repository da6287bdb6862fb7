import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { MediaInfo } from '../media/media'
import { timelineRanges } from '../lineup/lineup'
import { makeRate } from '../time/rate'
import { timecodeToFrames } from '../time/timecode'
import type { Overrides } from './recipe'
import { recipeKind, shippedRecipes } from './registry'
import { settingText, settingValue } from './settings'

const rate = makeRate(25)
const timeline = { rate, dropFrame: false, start: timecodeToFrames(10, 0, 0, 0, { rate, dropFrame: false })! }
const source = { container: 'mov', problems: [], video: [], audio: [], chapters: [] } as unknown as MediaInfo
const parts = [
  { in: 250, out: 350 },
  { in: 10, out: 200 },
]
const range = { in: 100, out: 500 }
const master = shippedRecipes().find((r) => r.kind === 'broadcast')!

function made(settings: Overrides, own = parts) {
  const abilities = { decodes: [], encodes: [] }
  const output = recipeKind(master).output({
    ...{ settings: { ...master, ...settings }, source, timeline, range, parts: own, abilities },
  })
  // a source without pictures cannot be made a master of: what is asked here is what it would be made of
  const codes = output.problems.map((p) => p.code).filter((c) => c !== 'recipe.no-pictures')
  return { ...output, codes }
}

it('a programme in parts: each where it follows from, black between them, and nothing else of its region', () => {
  const { sections, frames, start, notes, codes } = made({ breaks: 2 })
  expect(sections).toEqual([
    { kind: 'timeline', from: 10, frames: 190 },
    { kind: 'black', frames: 50 },
    { kind: 'timeline', from: 250, frames: 100 },
  ])
  expect([frames, start.label, codes]).toEqual([340, '10:00:04:10', []])
  expect(notes).toContain(
    '2 parts with 2 s of black between them; 00:00:04:10 of the region is of no part, and left out.',
  )
})

it('a set start is that of its first part, behind line-up as well', () => {
  const { sections, start } = made({ breaks: 0, start: '10:00:00:00', lineUp: -18 })
  expect(sections!.map((s) => s.kind)).toEqual(['bars', 'clock', 'black', 'timeline', 'timeline'])
  expect(start.label).toBe('09:59:30:00')
})

it('is whole where nobody asked for breaks, or where there are no two parts', () => {
  expect(made({}).sections).toBeUndefined()
  const one = made({ breaks: 3 }, parts.slice(1))
  expect([one.sections, one.frames]).toEqual([undefined, 400])
  expect(one.notes).toContain('It has no two parts within it: it is delivered as it lies in the timeline.')
})

it('says that parts overlap, and that handles have no place', () => {
  expect(made({ breaks: 3 }, [...parts, { in: 199, out: 250 }]).codes).toEqual(['recipe.parts-overlap'])
  expect(made({ breaks: 3 }, [...parts, { in: 200, out: 250 }]).codes).toEqual([])
  expect(made({ breaks: 3, handles: 10 }).codes).toEqual(['recipe.parts-handles'])
})

it('makes every frame of its parts once, and of what lies between them none', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.nat(400), { minLength: 4, maxLength: 12 }), fc.nat(5), (edges, breaks) => {
      const cuts = edges.sort((a, b) => a - b)
      const own = cuts.flatMap((at, i) => (i % 2 === 0 && i + 1 < cuts.length ? [{ in: at, out: cuts[i + 1]! }] : []))
      const output = made({ breaks }, own)
      const frames = own.flatMap((p) => Array.from({ length: p.out - p.in }, (_, i) => range.in + p.in + i))
      const shown = timelineRanges(output, range)
      expect(shown.flatMap((r) => Array.from({ length: r.out - r.in }, (_, i) => r.in + i))).toEqual(frames)
      expect(output.frames).toBe(frames.length + (own.length - 1) * breaks * 25)
      const steps = recipeKind(master).steps({
        ...{ settings: { ...master, breaks }, output, range, rate, reading: { pictures: [], sound: [] } },
      })
      const worked = steps.filter((s) => s.kind !== 'line-up').flatMap((s) => s.range)
      expect(worked.reduce((n, r) => n + r.out - r.in, 0)).toBe(frames.length)
    }),
    { numRuns: 200 },
  )
})

it('is typed in seconds, or in words', () => {
  const meant = ['', 'as they lie', 'none', '10', '10 s', '10 s of black'].map((t) => settingValue('breaks', t))
  expect(meant).toEqual([null, null, 0, 10, 10, 10])
  expect([null, 0, 10].map((v) => settingText('breaks', v))).toEqual(['as they lie', 'none', '10 s of black'])
  expect(settingValue('breaks', 'long')).toBeNaN()
})

it('is of an uncompressed master as of the others', () => {
  const abilities = { decodes: [], encodes: [] }
  const plain = shippedRecipes().find((r) => r.kind === 'master')!
  const settings = { ...plain, breaks: 2, lineUp: -18 as const, start: '10:00:00:00' }
  const output = recipeKind(plain).output({ settings, source, timeline, range, parts, abilities })
  expect(output.sections).toEqual(made({ breaks: 2, lineUp: -18 }).sections)
  expect([output.start.label, output.frames]).toEqual(['09:59:30:00', 750 + 340])
})
