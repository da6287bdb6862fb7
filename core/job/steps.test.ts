import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { MediaInfo } from '../media/media'
import type { Recipe } from '../recipe/recipe'
import { recipeKind, shippedRecipes } from '../recipe/registry'
import { makeRate } from '../time/rate'
import { forecastSeconds, planSteps, sharedBy, stepKind, stepText } from './steps'
import { codesPictures, makingSteps, takingSteps } from './taking'

const rate = makeRate(25)
const source: MediaInfo = {
  container: 'mov',
  indexAt: 'front',
  size: 1,
  durationFrames: 100_000,
  durationSeconds: 4000,
  timecode: null,
  chapters: [],
  bext: null,
  problems: [],
  video: [
    {
      codec: 'h264',
      profile: 'High',
      level: null,
      width: 1920,
      height: 1080,
      rate,
      constantRate: true,
      scan: 'progressive',
      chroma: '4:2:0',
      bitDepth: 8,
      pixelAspect: '1:1',
      colour: null,
      frames: 100_000,
      intra: false,
      webCodec: 'avc1.640028',
    },
  ],
  audio: [
    { codec: 'aac', channels: 2, sampleRate: 48000, bitDepth: 16, samples: 1, layout: null, webCodec: 'mp4a.40.2' },
  ],
}
const abilities = { decodes: ['h264', 'aac'], encodes: ['h264', 'aac'] }
function plan(kind: string, from: number, to: number, more: Partial<Recipe> = {}) {
  const recipe = { ...shippedRecipes().find((r) => r.kind === kind)!, ...more }
  const range = { in: from, out: to }
  const timeline = { rate, dropFrame: false, start: 0 }
  const output = recipeKind(recipe).output({ settings: recipe, source, timeline, range, abilities })
  return { output, steps: planSteps({ recipe, output, source, range, rate, route: [0, 1], spread: 0 }) }
}

describe('plans', () => {
  it('cover every frame once, need only what comes before, and end with the proof', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('rewrap', 'master', 'viewing', 'sound'),
        fc.nat(1000),
        fc.integer({ min: 1, max: 3000 }),
        (kind, from, length) => {
          const tasks = plan(kind, from, from + length).steps
          const seen = new Set<string>()
          for (const t of tasks) {
            for (const n of t.needs) expect(seen.has(n)).toBe(true)
            expect(seen.has(t.key)).toBe(false)
            seen.add(t.key)
          }
          expect(tasks.at(-1)!.kind).toBe('prove')
          const segments = tasks.filter((t) => t.key.startsWith('segment'))
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
    expect(plan('viewing', 0, 250).steps.map((t) => t.key)).toEqual([
      'segment-0',
      'segment-1',
      'segment-2',
      'sound',
      'join',
      'prove',
    ])
    expect(plan('master', 0, 125).steps.map((t) => t.key)).toEqual(['segment-0', 'segment-1', 'prove'])
  })
  it('cut pictures alike for every recipe, neither short nor long, so that they can be shared', () => {
    const shares = (kind: string, length: number) =>
      plan(kind, 50, 50 + length).steps.flatMap((s) => sharedBy('t', s) ?? [])
    for (const [length, count, first] of [
      [90, 1, 't 50–140'],
      [100 * 16, 16, 't 50–150'],
      [90_000, 150, 't 50–650'],
    ] as const) {
      expect([shares('master', length).length, shares('master', length)[0]]).toEqual([count, first])
      expect(shares('viewing', length)).toEqual(shares('master', length))
      expect([...shares('sound', length), ...shares('rewrap', length)]).toEqual([])
    }
  })
  it('leave the sound out where there is none', () => {
    const { steps } = plan('viewing', 0, 10, { channels: 'none' })
    expect(steps.map((t) => t.key)).toEqual(['segment-0', 'join', 'prove'])
  })
  it('ask for the abilities that reading and encoding take', () => {
    const { steps } = plan('viewing', 0, 10)
    expect(steps.map((s) => s.abilities)).toEqual([
      ['decode:h264', 'encode:h264'],
      ['decode:aac', 'encode:aac'],
      [],
      [],
    ])
    expect(plan('rewrap', 0, 10).steps.map((s) => s.abilities)).toEqual([[], []])
  })
  it('say their steps in words and forecast their time', () => {
    expect(plan('sound', 0, 10).steps.map((s) => stepText(s, rate))).toEqual([
      'write the sound',
      'read the file back, decode all of it, measure and judge it, make checksums',
    ])
    const seconds = (more: Partial<Recipe>) => {
      const { steps, output } = plan('master', 0, 3000, more)
      return forecastSeconds(steps, output, rate, new Map())
    }
    expect(seconds({})).toBeGreaterThan(seconds({ width: 1280, height: 720 }))
    // fifteen segments and the proof, with what each takes to be handed out
    expect(seconds({})).toBeCloseTo(15 * 0.1 + 3000 / 35 + 0.1 + 3000 / 20, 5)
    const { steps, output } = plan('master', 0, 3000)
    const prove = steps.at(-1)!
    expect(prove.pace).toMatch(/^prove: \S+ 1920×1080 → v210 1920×1080$/)
    const learned = new Map([[prove.pace!, 10]])
    expect(forecastSeconds(steps, output, rate, learned)).toBeCloseTo(15 * 0.1 + 3000 / 35 + 3000 / 10, 5)
    expect(() => stepKind('dream')).toThrow('“dream” are not known')
  })
})

describe('pictures that are taken from an earlier file', () => {
  const taken = (kind: string) => {
    const { steps } = plan(kind, 0, 125)
    return { steps, taking: takingSteps(steps, { in: 0, out: 125 }, (k) => `${k}: here`) }
  }
  it.each(['viewing', 'master', 'broadcast'])('change the steps of %s that make them, and nothing else', (kind) => {
    const { steps, taking } = taken(kind)
    expect(taking.map((s) => s.key)).toEqual(['earlier', ...steps.map((s) => s.key)])
    const [check, ...others] = taking
    expect(check).toMatchObject({ kind: 'check-earlier', needs: [], abilities: [], pace: 'check-earlier: here' })
    others.forEach((s, i) => {
      const before = steps[i]!
      if (before.kind !== 'prove' && !codesPictures(before.kind)) expect(s).toBe(before)
      else {
        const { kind: k, pace, needs, ...rest } = s
        expect(k).toMatch(/^take-|^prove-taken$/)
        expect([pace, needs]).toEqual([`${k}: here`, [...before.needs, 'earlier']])
        // whoever cannot take them makes them: the same abilities are asked of a worker
        expect(before).toMatchObject(rest)
        expect(codesPictures(k)).toBe(k !== 'prove-taken')
      }
    })
    const without = (list: readonly object[]) => list.map((s) => ({ ...s, pace: undefined }))
    expect(without(makingSteps(taking))).toEqual(without(steps))
  })
  it('are read with no others, and said in words', () => {
    const { taking } = taken('viewing')
    expect(taking.flatMap((s) => sharedBy('t', s) ?? [])).toEqual([])
    expect(taking.map((s) => stepText(s, rate)).slice(0, 2)).toEqual([
      'make sure that the earlier file is still what was proven',
      'take 100 frames of pictures from the earlier file',
    ])
  })
  it('are none of sound alone and of what is copied', () => {
    for (const kind of ['sound', 'rewrap'])
      expect(plan(kind, 0, 9).steps.some((s) => codesPictures(s.kind))).toBe(false)
  })
})
