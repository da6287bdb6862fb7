import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { expandPattern, fileSafe, parsePattern, unusable, type NameValues } from './names'
import { collisions, freePath } from './versions'

const values: NameValues = {
  show: 'The Ferry Almanac',
  timeline: 'Reel 1',
  region: 'Two Cars and a Cow',
  number: '04',
  outlet: 'Northmere',
  size: '1920x1080',
  height: '1080',
  rate: '25',
  codec: 'v210',
  channels: 'stereo',
  timecode: '10000000',
  length: '200',
  date: '2026-11-25',
  weekday: 'Wednesday',
  version: 'v01',
  production: '',
  source: 'reel.mov',
}

describe('name patterns (RFC 6570 forms)', () => {
  it.each([
    ['{show}/{number}_{region}_{version}', 'The_Ferry_Almanac/04_Two_Cars_and_a_Cow_v01'],
    ['{show:3}{region:7}', 'TheTwo_Car'],
    ['{nothing}_x', '{nothing}_x'],
    ['{region', '{region'],
  ])('%s', (pattern, path) => expect(expandPattern(pattern, values)).toBe(path))
  it('tells known fields from unknown ones and from text', () => {
    expect(parsePattern('a{region:2}{oops}')).toEqual([
      { text: 'a' },
      { field: 'region', prefix: 2, known: true },
      { field: 'oops', prefix: null, known: false },
    ])
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
  it.each(['../x', 'a//b', '/etc/x', 'a/../../b', 'nul', 'x.', 'C:x', `${'x'.repeat(300)}`, '{oops}', ''])(
    'refuses %s',
    (path) => expect(unusable(path)).not.toBeNull(),
  )
})

describe('versions', () => {
  it('finds collisions whatever the case', () =>
    expect([...collisions(['a/B.mov', 'c.mov', 'A/b.mov']).values()]).toEqual([[0, 2]]))
  it('takes the next version where the pattern has one', async () => {
    const taken = new Set(['x_v01.mov', 'x_v02.mov'])
    expect(
      await freePath(
        (v) => `x_v0${v}.mov`,
        (p) => taken.has(p),
      ),
    ).toEqual({ path: 'x_v03.mov', version: 3 })
  })
  it('adds a version where it has none', async () => {
    const taken = new Set(['x.mov', 'x_v02.mov'])
    expect(
      await freePath(
        () => 'x.mov',
        (p) => taken.has(p),
      ),
    ).toEqual({ path: 'x_v03.mov', version: 3 })
    expect(
      await freePath(
        () => 'y.mov',
        (p) => taken.has(p),
      ),
    ).toEqual({ path: 'y.mov', version: 1 })
  })
})
