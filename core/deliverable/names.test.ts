import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { fileSafe } from '../files/safe'
import { expandPattern, unusable, type NameContext } from './names'
import { collisions, freePath, versioned } from './versions'

const rate = makeRate(25)
const context: NameContext = {
  show: 'The Ferry Almanac',
  timeline: {
    name: 'Reel 1',
    rate,
    dropFrame: false,
    start: 900_000,
    length: 1000,
    tracks: [],
    events: [],
    markers: [],
  },
  region: { id: 'r', name: 'Two Cars and a Cow', in: 0, out: 200, metadata: { 'production number': 'FA-104' } },
  number: '04',
  outlet: 'Northmere',
  output: {
    container: 'mov',
    indexAt: 'front',
    video: {
      codec: 'v210',
      profile: null,
      width: 1920,
      height: 1080,
      rate,
      scan: 'progressive',
      chroma: '4:2:2',
      bitDepth: 10,
      pixelAspect: '1:1',
    },
    audio: { codec: 'pcm', channels: 2, sampleRate: 48000, bitDepth: 24, layout: null },
    frames: 200,
    samples: 384_000,
    start: { frames: 900_000, label: '10:00:00:00', dropFrame: false },
    bytes: 0,
    problems: [],
  },
  layout: 'L R',
  source: 'reel',
  taken: () => ({ frames: 90_012, rate, dropFrame: false, reel: 'CARD 07' }),
  today: new Date(2026, 10, 25),
  version: 1,
}

describe('name patterns (RFC 6570 forms)', () => {
  it.each([
    ['{show}/{number}_{region}_{version}', 'The_Ferry_Almanac/04_Two_Cars_and_a_Cow_v01'],
    ['{show:3}{region:7}', 'TheTwo_Car'],
    ['{nothing}_x', '{nothing}_x'],
    ['{region', '{region'],
    ['{size}_{height}_{rate}_{codec}_{channels}', '1920x1080_1080_25_v210_stereo'],
    ['{timeline}_{outlet}_{timecode}_{length}', 'Reel_1_Northmere_10000000_200'],
    ['{date}_{weekday}_{production}_{source}', '2026-11-25_Wednesday_FA-104_reel'],
    ['{reel}_{sourcetime}_{timecode}', 'CARD_07_01000012_10000000'],
  ])('%s', (pattern, path) => expect(expandPattern(pattern, context)).toBe(path))
  it('are empty where nothing says what the first picture was taken from', () => {
    expect(expandPattern('{region}_{reel}{sourcetime}', { ...context, taken: () => null })).toBe('Two_Cars_and_a_Cow_')
  })
  it('makes any value safe', () => {
    fc.assert(
      fc.property(fc.string(), (v) => {
        const safe = fileSafe(v)
        if (
          safe !== '' &&
          !/^(con|prn|aux|nul|com\d|lpt\d)/i.test(safe) &&
          safe.length < 60 &&
          !safe.startsWith('.') &&
          !safe.includes('{')
        )
          expect(unusable(safe)).toBeNull()
        expect(safe).not.toMatch(/[/\\]/)
      }),
    )
  })
  it.each([
    '../x',
    'a//b',
    '/etc/x',
    'a/../../b',
    'nul',
    'x.',
    'C:x',
    `${'x'.repeat(300)}`,
    '{oops}',
    '',
    '..wav',
    'a/...mov',
    '.Velvet-scratch/x.wav',
  ])('refuses %s', (path) => expect(unusable(path)).not.toBeNull())
})

describe('versions', () => {
  it('finds collisions whatever the case', () =>
    expect([...collisions(['a/B.mov', 'c.mov', 'A/b.mov']).values()]).toEqual([[0, 2]]))
  it('takes the next version where the pattern has one', () => {
    const taken = new Set(['x_v01.mov', 'x_v02.mov'])
    expect(
      freePath(
        (v) => `x_v0${v}.mov`,
        (p) => taken.has(p),
      ),
    ).toEqual({ path: 'x_v03.mov', version: 3 })
  })
  it('adds a version where it has none', () => {
    const taken = new Set(['x', 'x_v02'])
    const freeOf = (path: string) =>
      freePath(
        versioned(() => path),
        (p) => taken.has(p),
      )
    expect(freeOf('x')).toEqual({ path: 'x_v03', version: 3 })
    expect(freeOf('y')).toEqual({ path: 'y', version: 1 })
  })
})
