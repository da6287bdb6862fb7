import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { frameInFile, SampleClock, timelineRanges } from '../lineup/lineup'
import { makeRate, rates } from '../time/rate'
import { sampleAtFrame } from '../time/samples'
import { formatTimecode, timecodeToFrames } from '../time/timecode'
import { fileBase, type OutputRequest } from './output'
import { recipeKind, shippedRecipes } from './registry'

// Files whose fields are frames of a timeline of twice their rate.

const shipped = shippedRecipes().find((r) => r.kind === 'broadcast')!
const request = (more: Partial<OutputRequest> = {}, settings: Partial<typeof shipped> = {}): OutputRequest => ({
  settings: { ...shipped, scan: 'interlaced-tff', ...settings },
  source: {
    ...{ container: 'mov', indexAt: 'front', size: 1, durationFrames: 1000, durationSeconds: 20, timecode: null },
    ...{ chapters: [], bext: null, problems: [] },
    video: [
      {
        ...{ codec: 'v210', profile: null, level: null, width: 1920, height: 1080, rate: makeRate(50) },
        ...{ constantRate: true, scan: 'progressive', chroma: '4:2:2', bitDepth: 10, pixelAspect: '1:1', colour: null },
        ...{ frames: 1000, intra: true, webCodec: null },
      },
    ],
    audio: [
      { codec: 'pcm', channels: 2, sampleRate: 48000, bitDepth: 24, samples: 960_000, layout: null, webCodec: null },
    ],
  },
  timeline: { rate: makeRate(50), dropFrame: false, start: 0 },
  range: { in: 100, out: 300 },
  abilities: { decodes: ['v210', 'pcm'], encodes: ['h264-intra', 'pcm'] },
  ...more,
})
const outputOf = (r: OutputRequest) => recipeKind(shipped).output(r)

it('halves rate and frames, and says so', () => {
  const o = outputOf(request())
  expect(o.problems).toEqual([])
  expect(o).toMatchObject({
    ...{ frames: 100, perFrame: 2, samples: 192_000, start: { frames: 50, label: '00:00:02:00' } },
    video: { rate: makeRate(25), scan: 'interlaced-tff' },
  })
  expect(o.notes).toContain("Its 25 frames a second have two fields each, of the timeline's 50 frames.")
})

describe('what has no pairs', () => {
  const codes = (r: OutputRequest) => outputOf(r).problems.map((p) => p.code)
  it('is an edge between two frames of one', () => {
    for (const range of [
      { in: 101, out: 301 },
      { in: 100, out: 301 },
    ])
      expect(codes(request({ range }))).toContain('recipe.pair-edge')
    const parts = [
      { in: 0, out: 51 },
      { in: 60, out: 80 },
    ]
    const { problems } = outputOf(request({ parts }, { breaks: 2 }))
    expect(problems.map((p) => p.message).join()).toMatch(/an edge falls between them: 00:00:03:01\.$/)
  })
  it('is a timeline that begins between them, unless its start is set', () => {
    const timeline = { rate: makeRate(50), dropFrame: false, start: 1 }
    expect(codes(request({ timeline }))).toEqual(['recipe.pair-start'])
    expect(codes(request({ timeline }, { start: '10:00:00:00' }))).toEqual([])
  })
  it('is a source whose first picture lies between them, where its timecode is asked for', () => {
    const taken = { frames: 101, rate: makeRate(50), dropFrame: false, reel: '' }
    expect(codes(request({ taken }, { start: 'source' }))).toEqual(['recipe.start'])
    expect(codes(request({ taken: { ...taken, frames: 102 } }, { start: 'source' }))).toEqual([])
  })
  it('is a timeline of a rate that fields are not made of', () => {
    for (const rate of rates.filter((r) => ![50, 60].includes(Math.round(r.num / r.den))))
      expect(codes(request({ timeline: { rate, dropFrame: false, start: 0 } }))).toContain('recipe.no-fields')
  })
})

it('offers fields where pictures of the timeline’s own rate cannot be made', () => {
  const [problem] = outputOf(request({}, { scan: 'segmented' })).problems
  expect(problem!.fix).toMatch(/^Ask for fields made of its frames/)
})

const even = (most: number) => fc.nat(most).map((n) => n * 2)

it('leaves pictures, sound and timecode where they were in time', () => {
  const fast = [makeRate(50), makeRate(60000, 1001), makeRate(60)]
  fc.assert(
    fc.property(
      fc.constantFrom(...fast),
      fc.boolean(),
      even(50_000),
      even(400),
      fc.integer({ min: 1, max: 300 }),
      fc.boolean(),
      (rate, drop, start, first, count, lead) => {
        const dropFrame = drop && rate.den === 1001
        const range = { in: first, out: first + count * 2 }
        const timeline = { rate, dropFrame, start }
        const r = request({ timeline, range }, { lineUp: lead ? -18 : null })
        const output = outputOf(r)
        const base = fileBase({ output, timeline })
        const [own] = timelineRanges(output, range)
        expect(own).toEqual(range)
        const clock = new SampleClock(output, range, base.rate, 48000)
        for (const frame of [0, 1, count * 2 - 1]) {
          const n = frameInFile(output, frame)!
          // the label of a frame in the file is that of the pair's first, counted at half the rate
          const label = formatTimecode(base.start + n, base)
          const [h, m, s, f] = label.split(/[:;]/).map(Number) as [number, number, number, number]
          expect(timecodeToFrames(h, m, s, f * 2, timeline)).toBe(start + first + frame - (frame % 2))
          const [part] = clock.parts(clock.before(n), 1)
          expect(part!.from).toBe(sampleAtFrame(first + frame - (frame % 2), rate, 48000))
        }
        expect(frameInFile(output, count * 2)).toBe(null)
        expect(frameInFile(output, -1)).toBe(null)
      },
    ),
  )
})
