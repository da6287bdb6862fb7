import { expect, it } from 'vitest'
import type { Reading } from '../../core/measure/measure'
import type { ExpectedSum } from '../storage/listedsums'
import { readWithSums } from './sums'

const reading = (value: boolean | null, text: string): Reading => ({ value, text, from: 'file' })
const sum = (kind: ExpectedSum['kind'], file: string): ExpectedSum => ({ kind, sum: '0', file, list: 'all.md5' })
const [one, two] = [sum('md5', 'a.mov'), sum('sha1', 'a.mov')]

it.each<[string, Reading, readonly ExpectedSum[] | null, [boolean | null, string]]>([
  ['has all of them', reading(true, 'whole'), [], [true, 'whole, with the MD5 in all.md5 and SHA-1 in all.md5']],
  ['has not one', reading(true, 'whole'), [two], [false, 'not what was sent (it has not the SHA-1 in all.md5)']],
  ['was not looked at', reading(true, 'whole'), null, [null, 'its checksums were not looked at yet']],
  ['is broken, and was not looked at', reading(false, 'not whole'), null, [false, 'not whole']],
  [
    'is broken and has not one',
    reading(false, 'not whole'),
    [one],
    [false, 'not whole, and not what was sent (it has not the MD5 in all.md5)'],
  ],
  [
    'was not measured and has them',
    reading(null, 'unclear'),
    [],
    [null, 'unclear, with the MD5 in all.md5 and SHA-1 in all.md5'],
  ],
])('a file that %s is told so', (_, of, differ, expected) => {
  const { value, text } = readWithSums(of, 'a.mov', [one, two], differ)
  expect([value, text]).toEqual(expected)
})

it('of a run of stills those are named that are others, as far as they have room', () => {
  const stills = Array.from({ length: 9 }, (_, i) => sum('md5', `fog_000${i}.dpx`))
  const { text } = readWithSums(reading(true, 'whole'), 'fog_[0000-0008].dpx', stills, stills.slice(2))
  expect(text).toMatch(/MD5 of fog_0002\.dpx in all\.md5, .*fog_0005\.dpx in all\.md5 and 3 more\)$/)
  expect(readWithSums(reading(true, 'whole'), 'fog_[0000-0008].dpx', stills, []).text).toBe(
    'whole, with the MD5 in all.md5',
  )
})

it('a file in no list is read as it was measured', () => {
  const whole = reading(true, 'whole')
  expect(readWithSums(whole, 'a.mov', [], [])).toBe(whole)
})
