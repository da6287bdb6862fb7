import { describe, expect, it } from 'vitest'
import type { Expectation, Reading } from '../measure/measure'
import { judge, missOf, type RuleResult } from './judge'
import type { Rule } from './spec'
import { acceptedOf, lapsedText, type Waiver } from './waiver'

const rule = (measure: string, expect: Expectation, severity: Rule['severity'] = 'must'): Rule => ({
  ...{ id: 'r', measure, severity, expect, clause: '1' },
})
const reading = (value: Reading['value'], text: string, more: Partial<Reading> = {}): Reading => ({
  ...{ value, text, from: 'file', ...more },
})
const before = (r: Rule, is: Reading, waivers: readonly Waiver[] = []): RuleResult =>
  judge([r], { [r.measure]: is }, {}, null, waivers)[0]!
const written = (r: Rule, is: Reading, waivers: readonly Waiver[]): RuleResult =>
  judge([r], {}, {}, { [r.measure]: is }, waivers)[0]!

/** What stands against a rule, accepted. */
const accepting = (r: Rule, is: Reading): Waiver => ({
  ...{ rule: 'r', reason: 'agreed', initials: 'QP', at: '', accepted: acceptedOf(missOf(before(r, is))!) },
})

const loudness = rule('loudness', { target: -23, tolerance: 0.5 })
const lufs = (v: number) => reading(v, `${v.toFixed(1)} LUFS`)

describe('a waiver covers', () => {
  it.each([
    ['the same', -20, 'waived'],
    ['what misses less', -21, 'waived'],
    ['a tenth more, as shown', -19.95, 'waived'],
    ['no more than that', -19.8, 'fail'],
    ['nothing on the other side', -24, 'fail'],
  ] as const)('%s', (_, v, verdict) => {
    const w = accepting(loudness, lufs(-20))
    expect(before(loudness, lufs(v), [w]).verdict).toBe(verdict)
    expect(written(loudness, lufs(v), [w]).verdict).toBe(verdict)
  })
  it('as far as a forecast was said to move', () => {
    const w = accepting(loudness, { ...lufs(-20), give: { by: 0.5, when: 'before it is coded' } })
    expect([-19.5, -19.3].map((v) => written(loudness, lufs(v), [w]).verdict)).toEqual(['waived', 'fail'])
  })
  it('room that lacks a little more, but not much', () => {
    const room = rule('free-room', { min: 0 })
    const lacks = (v: number) => reading(v, '1 GB free, 3 GB needed by all')
    const w = accepting(room, lacks(-2e9))
    expect([-2.01e9, -1e9, -2.1e9].map((v) => before(room, lacks(v), [w]).verdict)).toEqual([
      'waived',
      'waived',
      'fail',
    ])
  })
  it('no demand that is another', () => {
    const w = accepting(loudness, lufs(-20))
    expect(before(rule('loudness', { target: -24, tolerance: 0.5 }), lufs(-20), [w]).verdict).toBe('fail')
    const wish = { ...loudness, severity: 'should' as const }
    expect(before(wish, lufs(-20), [w]).verdict).toBe('waived')
    expect(before(loudness, lufs(-20), [accepting(wish, lufs(-20))]).verdict).toBe('fail')
  })
  it('nothing that was not measured when it was given, and nothing unmeasured when it was', () => {
    const not = reading(null, 'it cannot be decoded')
    const unmeasured = accepting(loudness, not)
    expect(before(loudness, not, [unmeasured])).toMatchObject({ verdict: 'waived', blocks: false, waiver: unmeasured })
    expect(written(loudness, lufs(-20), [unmeasured]).verdict).toBe('fail')
    expect(written(loudness, not, [accepting(loudness, lufs(-20))])).toMatchObject({
      verdict: 'unmeasured',
      blocks: true,
    })
  })
  it('those faults that were there, and no other', () => {
    const r = rule('possible', { equals: true })
    const no = (...faults: string[]) => reading(false, `no. ${faults.join(' ')}`, { faults })
    const w = accepting(r, no('a', 'b'))
    expect([no('b'), no('a', 'b'), no('a', 'c')].map((x) => before(r, x, [w]).verdict)).toEqual([
      'waived',
      'waived',
      'fail',
    ])
  })
  it('those stretches that were there, and no other', () => {
    const r = rule('freeze', { max: 0 })
    const at = (...where: { in: number; out: number }[]) => reading(where.length, 'frozen', { where })
    const w = accepting(r, at({ in: 4, out: 6 }))
    const found = [at({ in: 4.1, out: 6.1 }), at({ in: 4, out: 60 }), at({ in: 9, out: 10 })]
    expect(found.map((x) => written(r, x, [w]).verdict)).toEqual(['waived', 'fail', 'fail'])
  })
  it('names that lacked, and fields that missed', () => {
    const names = rule('captions', { includes: ['CC1', 'CC3', 'S1'] })
    const w = accepting(names, reading(['CC1', 'S1'], 'CC1, S1'))
    expect(before(names, reading(['CC1', 'S1', 'T1'], ''), [w]).verdict).toBe('waived')
    expect(before(names, reading(['S1', 'CC3'], ''), [w]).verdict).toBe('fail')
    const fields = rule('metadata', { fields: [{ name: 'title' }, { name: 'number' }] })
    const untitled = accepting(fields, reading({ number: '7' }, ''))
    expect(before(fields, reading({ number: '8', other: 'x' }, ''), [untitled]).verdict).toBe('waived')
    expect(before(fields, reading({ title: 'Fog Bell' }, ''), [untitled]).verdict).toBe('fail')
  })
  it('several numbers each for itself', () => {
    const r = rule('mixes-loudness', { target: -23, tolerance: 0.5 })
    const w = accepting(r, reading([-20, -23], ''))
    const found = [
      [-20, -23],
      [-23, -20],
      [-20, -23, -23],
      [-20, -Infinity],
    ]
    expect(found.map((x) => before(r, reading(x, 'other'), [w]).verdict)).toEqual(['waived', 'fail', 'fail', 'fail'])
  })
  it('silence by its words, which no number stands for', () => {
    const w = accepting(loudness, reading(-Infinity, 'silence'))
    expect(JSON.parse(JSON.stringify(w))).toEqual(w)
    expect(before(loudness, reading(-Infinity, 'silence'), [w]).verdict).toBe('waived')
    expect(before(loudness, lufs(-40), [w]).verdict).toBe('fail')
  })
  it('a class of faults by its words', () => {
    const r = rule('sample-rate', { equals: 48_000 })
    const w = accepting(r, reading('mixed', '48 kHz in track 1, 44.1 kHz in track 2'))
    expect(before(r, reading('mixed', '8 kHz in track 1, 44.1 kHz in track 2'), [w]).verdict).toBe('fail')
  })
  it('anything, where that was said', () => {
    const any: Waiver = { rule: 'r', reason: 'a test', initials: 'QP', at: '', accepted: 'anything' }
    expect(before(loudness, lufs(-3), [any])).toMatchObject({
      ...{ verdict: 'waived', blocks: false },
      why: expect.stringMatching(/−23 ±0.5 LUFS\. Accepted by QP, whatever it comes to: a test$/) as string,
    })
    expect(before(loudness, lufs(-23), [any])).toMatchObject({ verdict: 'pass', waiver: null })
  })
})

it('says what was accepted that is no longer what stands', () => {
  const w = accepting(loudness, lufs(-20))
  const { why, waiver, lapsed } = before(loudness, lufs(-9), [w])
  expect(why).toBe('Integrated loudness will be -9.0 LUFS; required: −23 ±0.5 LUFS. That is not what QP accepted.')
  expect([waiver, lapsed]).toEqual([null, w])
  expect(lapsedText(lapsed!)).toBe(
    'Accepted by QP (agreed) was: Integrated loudness will be -20.0 LUFS; required: −23 ±0.5 LUFS.',
  )
  const { accepted: _, ...earlier } = w
  expect(before(loudness, lufs(-20), [earlier])).toMatchObject({ verdict: 'fail', lapsed: earlier })
  expect(lapsedText(earlier)).toBe('Accepted by QP (agreed) was: something that was not kept.')
})
