import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { readLines, type LineOptions } from './lines'
import type { Timeline } from '../timeline/model'

const timeline = (more: Partial<Timeline> = {}): Timeline => ({
  ...{ name: 'Reel', rate: makeRate(25), dropFrame: false, start: 900_000, length: 30_000 },
  ...{ tracks: [], events: [], markers: [], ...more },
})
const read = (text: string, options: Partial<LineOptions> = {}, t = timeline()) =>
  readLines(text, t, { from: 'fitting', end: 'after', ...options })
const ranges = (...args: Parameters<typeof read>) =>
  read(...args).map((l) => l.range && [l.range.name, l.range.in, l.range.out])

describe('lines as people write them', () => {
  it.each([
    ['timecodes and a name', '10:00:10:00 10:00:20:00 Fog Bell', 250, 500],
    ['the name first', 'Fog Bell  10:00:10:00 - 10:00:20:00', 250, 500],
    ['an arrow, brackets and a number before it', '3. [10:00:10:00 → 10:00:20:00] Fog Bell', 250, 500],
    ['columns parted by tabs', 'Fog Bell\t10:00:10:00\t10:00:20:00', 250, 500],
    ['semicolons before the frames', '10:00:10;00 to 10:00:20;00 Fog Bell', 250, 500],
    ['columns parted by commas', '10:00:10:00,10:00:20:00,Fog Bell', 250, 500],
    ['clock times parted by commas', '0:10,0:20,Fog Bell', 250, 500],
    ['a length in a column of its own', '10:00:10:00\tFog Bell\t10s', 250, 500],
    ['in, out and length', '10:00:10:00 10:00:20:00 10s Fog Bell', 250, 500],
    ['a length', '10:00:10:00 +10s Fog Bell', 250, 500],
    ['a length in minutes and seconds', '10:00:10:00 1min 10s Fog Bell', 250, 2000],
    ['clock times without frames', '0:10 0:20 Fog Bell', 250, 500],
    ['clock times with milliseconds', '00:00:10.040 --> 00:00:20.000 Fog Bell', 251, 500],
    ['hours without frames', '10:00:10 10:00:20 Fog Bell', 250, 500],
    ['frames', '250 500 Fog Bell', 250, 500],
    ['frames with a dash', '250-500, Fog Bell', 250, 500],
  ])('%s', (_, text, from, to) => expect(ranges(text)).toEqual([['Fog Bell', from, to]]))

  it('ends a region where the next one begins, and the last one with the timeline', () =>
    expect(ranges('10:05:00:00 Low Water\n\n10:00:00:00 Fog Bell')).toEqual([
      ['Low Water', 7500, 30_000],
      null,
      ['Fog Bell', 0, 7500],
    ]))
  it('takes the last frame for the end where that is what is given', () =>
    expect(ranges('10:00:10:00 10:00:19:24 Fog Bell', { end: 'last' })).toEqual([['Fog Bell', 250, 500]]))
  it('keeps times and numbers that stand within a name', () => {
    for (const name of ['The 7:15 boat, 2 h late', 'The 5 min boat', '7:15']) {
      expect(ranges(`10:00:10:00 10:00:20:00 – ${name}`)).toEqual([[name, 250, 500]])
      if (name !== '7:15') expect(ranges(`10:00:10:00 ${name}`)).toEqual([[name, 250, 30_000]])
    }
  })

  it('counts all lines from the same place: from labels where they fit, else from the first frame', () => {
    expect(ranges('00:00:10:00 00:00:20:00 a')).toEqual([['a', 250, 500]])
    expect(read('10:00:10:00 a', { from: 'first' })[0]!.why).toMatch(/after the timeline|before it begins/)
    const mixed = read('10:00:10:00 10:00:20:00 a\n10:00:20:00 10:00:30:00 b\n00:00:30:00 00:00:40:00 c')
    expect(mixed.map((l) => l.why)).toEqual([null, null, 'it begins 899250 frames before the timeline'])
  })
  it('counts labels after midnight on, and names those that the timeline has not', () => {
    const t = timeline({ start: (86_400 - 60) * 25 })
    const text = '23:59:50:00 00:00:10:00 a\n00:00:10:00 00:01:00:00 b'
    expect(ranges(text, {}, t)).toEqual([
      ['a', 1250, 1750],
      ['b', 1750, 3000],
    ])
    expect(ranges(text, { from: 'labels' }, t)).toEqual(ranges(text, {}, t))
    expect(read('00:25:00:00 00:26:00:00 c', { from: 'labels' }, t)[0]!.why).toMatch(/before the timeline/)
  })
  it('reads labels with dropped frames, and says which there are none of', () => {
    const t = timeline({ rate: makeRate(30000, 1001), dropFrame: true, start: 107_892 })
    expect(ranges('01:00:10;00 01:00:20;00 a', {}, t)).toEqual([['a', 300, 600]])
    expect(read('01:01:00;00 01:02:00;02 a', {}, t)[0]!.why).toBe('“01:01:00;00” is no timecode at this rate')
    expect(ranges('1:10 a', {}, t)).toEqual([['a', 2098, 30_000]])
  })
})

describe('what is not understood', () => {
  it.each([
    [`10:00:10:00 ${'x'.repeat(401)}`, 'its name is longer than 400 letters'],
    ['Fog Bell', 'there is no time in it'],
    ['10:00:10:00 10:00:20:00 12s Fog Bell', 'its end and its length do not fit'],
    ['10:00:10:30 10:00:20:00 Fog Bell', '“10:00:10:30” is no timecode at this rate'],
    ['10:00:10:00 10:00:20:30 Fog Bell', '“10:00:20:30” is no timecode at this rate'],
    ['10:00:20:00 10:00:10:00 Fog Bell', 'it ends (10:00:10:00) before it begins'],
    ['10:00:10:00 10:30:00:00 Fog Bell', 'it ends 15000 frames after the timeline'],
  ])('%s', (text, why) => {
    const [line] = read(text)
    expect(line).toEqual({ text, range: null, why })
  })
  it('loses no line', () => {
    const text = 'heading\n10:00:10:00 a\n\nbell 10:00:20:00'
    expect(
      read(text)
        .map((l) => l.text)
        .join('\n'),
    ).toBe(text)
  })
})

describe('rows of a spreadsheet', () => {
  it('are read by their header, further columns as metadata', () => {
    const [head, row] = read('No.\tTitle\tStart\tDuration\tproduction number\n1\tFog Bell\t10:00:10:00\t0:10\tFA-103')
    expect(head).toMatchObject({ range: null, why: null })
    expect(row!.range).toEqual({ name: 'Fog Bell', in: 250, out: 500, metadata: { 'production number': 'FA-103' } })
  })
  it('may be parted by commas, with quotes around what holds one', () =>
    expect(ranges('in,out,name\n10:00:10:00,10:00:20:00,"Two Cars, and a Cow"')[1]).toEqual([
      'Two Cars, and a Cow',
      250,
      500,
    ]))
  it('say which cell is wrong', () =>
    expect(read('name;in;out\nFog;10:00:10:00;soon')[1]!.why).toBe('“soon” is no time'))
})
