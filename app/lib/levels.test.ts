import { expect, it, vi } from 'vitest'
import { makeRate } from '../../core/time/rate'
import { traceAt } from '../../core/time/samples'
import { decibels, levelsAt } from './levels'

/** A server whose levels are the number of their trace, in one channel; the sound has `count` of them. */
function serving(rate: { num: number; den: number }, count: number) {
  vi.stubGlobal('fetch', (url: string) => {
    const query = new URL(url, 'http://here').searchParams
    const first = traceAt(Number(query.get('from')), rate)
    const end = Math.min(count, traceAt(Number(query.get('to')) - 1, rate) + 1)
    const peaks = Array.from({ length: Math.max(0, end - first) }, (_, i) => [first + i])
    return Promise.resolve(Response.json({ channels: 1, rate, first, peaks }))
  })
}
let serial = 0
const timeline = (num: number, length: number) => ({
  ...{ id: `t${++serial}`, fingerprint: { content: 'c' } },
  model: { rate: makeRate(num), length },
})
async function at(t: ReturnType<typeof timeline>, frame: number) {
  while (levelsAt(t, frame, () => undefined) === null) await new Promise((r) => setTimeout(r))
  const { now, held } = levelsAt(t, frame, () => undefined)!
  return [now[0], held[0]]
}

it('tells the level of a frame and the highest of two seconds up to it, over the ends of pieces', async () => {
  serving(makeRate(25), 600)
  const t = timeline(25, 600)
  expect([await at(t, 0), await at(t, 249), await at(t, 250), await at(t, 599)]).toEqual([
    [0, 0],
    [249, 249],
    [250, 250],
    [599, 599],
  ])
})
it('tells silence where the sound has ended, and what is held of it for two seconds', async () => {
  serving(makeRate(25), 300)
  const t = timeline(25, 600)
  expect([await at(t, 310), await at(t, 349), await at(t, 350)]).toEqual([
    [0, 299],
    [0, 299],
    [0, 0],
  ])
})
it('counts hundredths of sound alone exactly, at any sample rate', async () => {
  serving(makeRate(22_050), 100_000)
  const t = timeline(22_050, 22_050 * 100)
  expect([(await at(t, 22_050 * 95 + 110))[0], (await at(t, 22_050 * 95 + 221))[0]]).toEqual([9500, 9501])
})
it('says silence in decibels', () => expect([decibels(0), decibels(1)]).toEqual([-Infinity, 0]))
