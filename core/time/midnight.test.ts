import fc from 'fast-check'
import { expect, it } from 'vitest'
import { countedFrom, ofDay, sameLabel } from './midnight'
import { makeRate } from './rate'
import { formatTimecode, framesPerDay, parseTimecode, type TimeBase } from './timecode'

const bases: TimeBase[] = [
  { rate: makeRate(25), dropFrame: false },
  { rate: makeRate(30000, 1001), dropFrame: true },
  { rate: makeRate(60000, 1001), dropFrame: true },
]

it('counts every label of a range on from its start, over midnight too', () =>
  fc.assert(
    fc.property(fc.constantFrom(...bases), fc.nat(), fc.nat(), fc.nat(), (base, begin, long, at) => {
      const day = framesPerDay(base)
      const [start, length] = [begin % day, long % day]
      const frame = at % (length + 1)
      const label = formatTimecode(start + frame, base)
      const read = parseTimecode(label, base)!
      expect(countedFrom(start, read, base, start + length)).toBe(start + frame)
      // without an end, half a day of them
      if (frame <= day / 2) expect(countedFrom(start, read, base)).toBe(start + frame)
      expect(sameLabel(start + frame, read, base)).toBe(true)
      expect(sameLabel(start + frame + 1, read, base)).toBe(false)
      expect(formatTimecode(ofDay(start + frame, base), base)).toBe(label)
    }),
  ))

it('leaves what lies before a start where it is, unless the next day is nearer', () => {
  const [pal] = bases
  expect(countedFrom(900_000, 899_975, pal!)).toBe(899_975)
  expect(countedFrom(900_000, 899_975, pal!, 900_500)).toBe(899_975)
})
