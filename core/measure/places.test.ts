import { expect, it } from 'vitest'
import { measureOf, measures } from './registry'

const at = (n: number) => ({ in: n, out: n + 2 })
const found = {
  pictures: {
    damaged: [at(0)],
    black: [at(1)],
    freeze: [at(2)],
    flashes: [at(3)],
    levels: { excursions: [at(4)] },
    fields: { two: [{ ...at(5), first: 'top' }], one: false },
    cadence: [
      { ...at(6), every: 25, shown: 1 },
      { ...at(7), every: 2, shown: 2 },
    ],
  } as never,
  scan: 'progressive' as const,
  trouble: { silence: [at(9)], clicks: [at(30)], dropouts: [at(10)], phase: [at(20)], data: [at(40)] },
}

it('measures of what has a place say where it was found, in order', () => {
  const places = Object.fromEntries(measures.flatMap((m) => (m.places ? [[m.name, m.places(found)]] : [])))
  expect(places).toEqual({
    intact: [at(0)],
    'coded-sound': [at(40)],
    phase: [at(20)],
    'sound-faults': [at(10), at(20), at(30)],
    black: [at(1)],
    freeze: [at(2)],
    flashes: [at(3)],
    fields: [{ ...at(5), first: 'top' }],
    cadence: [{ ...at(6), every: 25, shown: 1 }],
    levels: [at(4)],
  })
})

it('and nothing where the pass has not got to', () => {
  for (const name of ['black', 'levels', 'phase', 'sound-faults'])
    expect(measureOf(name).places!({ pictures: null, scan: null, trouble: null })).toEqual([])
})
