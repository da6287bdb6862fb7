import { expect, it } from 'vitest'
import { makeRate } from '../../core/time/rate'
import { differences } from './clash'

const timeline = {
  ...{ name: 'Reel', rate: makeRate(25), dropFrame: false, start: 900_000, length: 300 },
  ...{ tracks: [], events: [], markers: [] },
}
const region = { id: 'a', name: 'Fog', in: 0, out: 100, metadata: { title: 'Fog Bell' } }

it('says only in what two states differ, places with their frames', () => {
  const list = differences({ ...region, out: 90, kind: 'promo', metadata: {} }, region, timeline)
  expect(list).toEqual([
    { label: 'last frame', mine: { text: '10:00:03:14', frame: 89 }, theirs: { text: '10:00:03:24', frame: 99 } },
    { label: 'kind', mine: { text: 'promo', frame: null }, theirs: { text: '—', frame: null } },
    { label: 'title', mine: { text: '—', frame: null }, theirs: { text: 'Fog Bell', frame: null } },
  ])
})
it('says of what one took away that it is deleted', () => {
  const list = differences(null, region, timeline)
  expect(list).toMatchObject([{ mine: { text: 'deleted' }, theirs: { text: 'kept' } }])
})
