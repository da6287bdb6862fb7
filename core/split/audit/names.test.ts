import { expect, it } from 'vitest'
import type { Region } from '../region'
import { namesBySpelling, refusedName } from './names'

const region = (id: string, name: string): Region => ({ id, name, in: 0, out: 1, metadata: {} })
const others = [region('a', 'Fog Bell'), region('b', 'Café'), region('c', 'Break')]
const why = (name: string, id = 'x') => refusedName(region(id, name), namesBySpelling(others))?.message ?? null

it('refuses names that no file can have, with the reason', () => {
  expect(why('con')).toContain('“con” is reserved by some systems')
  expect(why('x'.repeat(241))).toContain('longer than 240 bytes')
  // sixty pictures of four bytes each
  expect([why('🚢'.repeat(60)), why('🚢'.repeat(61))]).toEqual([null, expect.stringContaining('longer')])
})
it('refuses names that some system takes for another region’s, by case, accents or blanks', () => {
  for (const name of ['FOG BELL', 'fog  bell', 'Fog_Bell']) expect(why(name)).toContain('take it for “Fog Bell”')
  expect(why('Cafe\u0301')).toContain('take it for “Café”')
})
it('lets the very same name be, one’s own in other letters, and none', () => {
  expect([why('Break'), why('fog bell', 'a'), why(''), why('Fog Bell 2')]).toEqual([null, null, null, null])
})
