import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { findHead, headPer, tones } from './head'

const rate = makeRate(25)
const second = (from: number, to: number) => ({ in: from * 25, out: to * 25 })
/** Momentary loudness: tone to 10 s, silence to 23 s, then programme. */
const momentary = Array.from({ length: 600 }, (_, i) => {
  if (i < 100) return -18
  return i < 233 ? null : -23 + 3 * Math.sin(i)
})
const silence = [second(10, 23)]
const facts = { rate, length: 1500, momentary, silence, freeze: [second(0, 10)], black: [second(20, 23)] }

describe('the head of a programme', () => {
  it('is line-up, a clock and black', () =>
    expect(findHead(facts)).toEqual({
      lineUp: second(0, 10),
      by: ['still picture', 'tone'],
      clock: second(10, 20),
      black: second(20, 23),
      programme: 575,
    }))
  it('is found by its tone alone, where the bars carry running timecode', () =>
    expect(findHead({ ...facts, freeze: [] })).toMatchObject({ by: ['tone'], programme: 575 }))
  it('has black before the clock as well', () =>
    expect(findHead({ ...facts, black: [second(10, 12), second(20, 23)] })).toMatchObject({
      clock: second(12, 20),
      programme: 575,
    }))
  it('does not reach to the first break: what is heard before it is programme', () => {
    const black = [second(20, 23), second(50, 52)]
    expect(findHead({ ...facts, black, silence: [...silence, second(50, 52)] })).toMatchObject({ programme: 575 })
    // without a clock, black after what is heard is no beginning
    expect(findHead({ ...facts, black: [second(50, 52)], silence: [second(50, 52)] })).toBeNull()
  })
  it('ends with its first pause: a tone that is heard later is programme', () => {
    const heard = momentary.map((m, i) => (i >= 233 && i < 260 ? -23 : m))
    expect(findHead({ ...facts, momentary: heard, freeze: [] })).toMatchObject({
      lineUp: second(0, 10),
      programme: 575,
    })
  })
  it('is not seen in a programme that begins at once', () => {
    const heard = momentary.map((_, i) => -23 + 3 * Math.sin(i))
    expect(findHead({ ...facts, freeze: [], momentary: heard, silence: [] })).toBeNull()
  })
  it('is judged by pictures where there is no sound', () =>
    expect(findHead({ ...facts, momentary: null, silence: [] })).toMatchObject({
      by: ['still picture'],
      programme: 575,
    }))
})

it('takes for a tone what stays within half a LU for two seconds, and nothing that is nearly silent', () => {
  expect(tones(momentary, rate)).toEqual([{ in: 0, out: 250 }])
  expect(
    tones(
      Array.from({ length: 100 }, () => -60),
      rate,
    ),
  ).toEqual([])
  expect(
    tones(
      Array.from({ length: 100 }, (_, i) => -20 + (i % 2)),
      rate,
    ),
  ).toEqual([])
})

it('stands where two of its frames are one: a programme that begins with a second field is of that frame', () => {
  const found = { lineUp: { in: 0, out: 101 }, clock: { in: 101, out: 150 }, programme: 301 }
  expect(headPer({ ...found, by: ['tone'] }, 2)).toEqual({
    ...{ by: ['tone'], lineUp: { in: 0, out: 50 }, clock: { in: 50, out: 75 }, programme: 150 },
  })
})
