import { expect, it } from 'vitest'
import * as tables from './tables'

// how many codes each table of the standard has: a run and a level with both signs counts once
const all: readonly [string, tables.Codes, number][] = [
  ['increments (B.1)', tables.increments, 34],
  ['kinds in I pictures (B.2)', tables.kinds[1]!, 2],
  ['kinds in P pictures (B.3)', tables.kinds[2]!, 7],
  ['kinds in B pictures (B.4)', tables.kinds[3]!, 11],
  ['patterns (B.9)', tables.patterns, 64],
  ['motion (B.10)', tables.motions, 17],
  ['means of luma (B.12)', tables.meanSizes[0], 12],
  ['means of chroma (B.13)', tables.meanSizes[1], 12],
  ['coefficients (B.14)', tables.coefficients0, 113],
  ['coefficients (B.15)', tables.coefficients1, 113],
]

it.each(all)('%s: all codes are there, and none begins another', (_, { bits, lengths, values }, count) => {
  // a code that began another would have been written over: its patterns would be fewer than its length says
  const counted = new Map<string, number>()
  lengths.forEach((n, i) => n && counted.set(`${values[i]}/${n}`, (counted.get(`${values[i]}/${n}`) ?? 0) + 1))
  for (const [key, n] of counted) expect([key, n]).toEqual([key, 2 ** (bits - Number(key.split('/')[1]))])
  expect(counted.size).toBe(count)
})

it('scans go by every place once; weights and steps are as many as there are', () => {
  for (const scan of tables.scans) expect([...scan].sort((a, b) => a - b)).toEqual([...Array(64).keys()])
  const w = tables.intraWeights
  expect(w).toHaveLength(64)
  for (const scale of tables.quantisers) expect(scale).toHaveLength(32)
})
