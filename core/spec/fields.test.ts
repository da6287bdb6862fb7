import { describe, expect, it } from 'vitest'
import type { FieldRule, Reading } from '../measure/measure'
import { fieldMisses, fieldSchema, fieldText } from './fields'
import { expectationText, judge, meets } from './judge'
import { fieldsAsked, ruleSchema, specSchema } from './spec'

const start: Reading = { value: '10:00:00:00', text: '10:00:00:00', from: 'file' }
const of = (name: string) => (name === 'programme-start' ? start : null)
const misses = (value: string, rule: Omit<FieldRule, 'name'>) => fieldMisses({ a: value }, [{ name: 'a', ...rule }], of)

describe('a field of programme metadata', () => {
  it.each<[string, Omit<FieldRule, 'name'>, string, string]>([
    ['is there', {}, 'x', ''],
    ['a number', { form: 'number' }, '-12.5', '12,5'],
    ['a timecode', { form: 'timecode' }, '09:59:30;00', '9:59:30:00'],
    ['a day of the calendar', { form: 'date' }, '2024-02-29', '2026-02-29'],
    ['a day of a month there is', { form: 'date' }, '2026-12-31', '2026-13-01'],
    ['no longer than it may be, in letters', { longest: 3 }, 'åßç', 'four'],
    ['one of its values', { oneOf: ['eng', 'zxx'] }, 'zxx', 'ENG'],
    ['as it is spelt', { matches: '^FA-[0-9]+$' }, 'FA-103', 'XFA-103'],
    ['what was measured', { is: 'programme-start' }, '10:00:00:00', '10:00:00:01'],
  ])('must be %s', (_, rule, good, bad) => {
    expect(misses(good, rule)).toEqual([])
    expect(misses(bad, rule)).toHaveLength(1)
    expect(misses(bad, rule)[0]).toMatch(/^a /)
  })

  it('says what has to match in its own words, where it has any', () => {
    const rule = { matches: '^FA-[0-9]+$', says: 'FA- and a number' }
    expect(misses('XFA-103', rule)).toEqual(['a “XFA-103” is not FA- and a number'])
    expect(misses('XFA-103', { matches: rule.matches })).toEqual(['a “XFA-103” does not match ^FA-[0-9]+$'])
    expect(fieldText({ name: 'a', ...rule, longest: 12 })).toBe('a (FA- and a number; at most 12 letters)')
  })

  it('that is missing is a miss unless it may be; only spaces are nothing', () => {
    expect(misses('  ', {})).toEqual(['a is missing'])
    expect(misses(' ', { optional: true, form: 'number' })).toEqual([])
    expect(fieldMisses({}, [{ name: 'series title' }], of)).toEqual(['series title is missing'])
  })

  it('that must repeat what nobody measured has not passed', () => {
    expect(misses('00:01:00:00', { is: 'programme-duration' })).toEqual([
      'a cannot be held against programme duration, which was not measured',
    ])
  })

  it('is put in words', () => {
    expect(fieldText({ name: 'language', oneOf: ['eng', 'cym'], optional: true })).toBe(
      'language (if there is one; eng or cym)',
    )
    expect(fieldText({ name: 'start', form: 'timecode', is: 'programme-start' })).toBe(
      'start (a timecode; as programme start)',
    )
  })

  it('is refused in a spec when it asks nonsense', () => {
    for (const wrong of [{ name: '' }, { name: 'a', is: 'mood' }, { name: 'a', matches: '(' }, { name: 'a', long: 3 }])
      expect(fieldSchema.safeParse(wrong).success).toBe(false)
  })
})

describe('a rule about fields', () => {
  const rule = ruleSchema.parse({
    ...{ id: 'papers', measure: 'metadata', severity: 'must', clause: '§6' },
    expect: {
      fields: [
        { name: 'language', oneOf: ['eng'] },
        { name: 'start', is: 'programme-start' },
      ],
    },
  })
  const typed = (metadata: Record<string, string>) => ({
    metadata: { value: metadata, text: 'typed', from: 'region' },
    'programme-start': start,
  })

  it('names each field that misses, and passes when none does', () => {
    const [bad] = judge([rule], typed({ language: 'fra' }), {}, null, [])
    expect(bad).toMatchObject({
      verdict: 'fail',
      why: 'Programme metadata: language “fra” is not eng; start is missing.',
    })
    const [good] = judge([rule], typed({ language: 'eng', start: '10:00:00:00' }), {}, null, [])
    expect(good!.verdict).toBe('pass')
    expect(expectationText(rule)).toBe('language (eng), start (as programme start)')
  })

  it('holds the file against itself, not against the forecast', () => {
    const written = { metadata: { value: { language: 'eng', start: '10:00:00:00' }, text: '', from: 'file' } }
    expect(judge([rule], typed({ language: 'eng' }), {}, written, [])[0]!.why).toContain('which was not measured')
  })

  it('asks of names alone by “includes”, of lists and of fields', () => {
    expect(meets({ a: '1' }, { includes: ['a'] })).toBe(true)
    expect(meets({ a: '1' }, { includes: ['b'] })).toBe(false)
    expect(meets(['a'], { includes: ['a'] })).toBe(true)
    expect(meets('a', { fields: [{ name: 'a' }] })).toBe(false)
  })

  it('tells the desk which fields to show', () => {
    const spec = specSchema.parse({
      ...{ format: 'velvet-crane-spec/1', id: 'x', name: 'X', recipient: '', issued: '' },
      rules: [
        rule,
        { ...rule, id: 'more', expect: { includes: ['production number', 'language'] } },
        { ...rule, id: 'maybe', expect: { fields: [{ name: 'caption file', optional: true }] } },
      ],
    })
    expect(fieldsAsked(spec)).toEqual(['language', 'start', 'production number'])
  })
})
