import { expect, it } from 'vitest'
import { acceptanceOf, acceptedByRegion } from './accepted'
import { audit } from './audit/audit'
import { defaultAudit, findingId, type Finding } from './audit/finding'
import { accept, moveEdge, withoutAcceptance } from './edit'
import type { Split } from './region'

const region = (id: string, from: number, to: number) => ({ id, name: id, in: from, out: to, metadata: {} })
const split: Split = { regions: [region('a', 0, 100), region('b', 90, 200), region('c', 200, 300)], markers: [] }
const overlap: Finding = {
  ...{ kind: 'overlap', severity: 'fail', text: '“a” and “b” overlap', regions: ['a', 'b'], fix: null },
  range: { in: 90, out: 100 },
}
const as = { reason: 'a dissolve of both', initials: 'QP' }
const told = (s: Split) => [...acceptedByRegion(s)]
const accepted = accept(split, [acceptanceOf(overlap, split, as)])

it('is told of each region it is of', () => {
  const fault = { text: '“a” and “b” overlap', ...as }
  expect(told(accepted)).toEqual([
    ['a', [fault]],
    ['b', [fault]],
  ])
  expect([told(split), told(withoutAcceptance(accepted, [accepted.accepted![0]!.id]))]).toEqual([[], []])
})
it('is told no more once one of its regions lies elsewhere or is gone, whatever others do', () => {
  expect(told(moveEdge(accepted, 'b', 'in', 95, 300))).toEqual([])
  expect(told({ ...accepted, regions: accepted.regions.slice(1) })).toEqual([])
  expect(told(moveEdge(accepted, 'c', 'in', 210, 300))).toHaveLength(2)
})
it('is of nothing that another outlet asks, other media lacks, or another gap makes of the same frames', () => {
  const options = (gap: number, word: string, ...whys: string[]) => ({
    ...{ ...defaultAudit, gap, troubles: [{ in: 100, out: 120, word, grave: true }] },
    lengths: new Map([['a', whys.map((why) => ({ why, blocks: true }))]]),
    outlets: new Map(['a', 'c'].map((id) => [id, whys.map((why) => why.slice(0, 6))])),
  })
  const own: Split = { ...split, regions: [region('a', 0, 150), region('c', 100, 140), region('d', 152, 200)] }
  const ids = (...by: Parameters<typeof options>) => audit(own, [], 300, options(...by)).map(findingId)
  const now = ids(5, 'missing', 'Osprey: too short')
  const kinds = (list: readonly string[]) => list.map((id) => id.split(' ')[0])
  expect(kinds(now)).toEqual(expect.arrayContaining(['length', 'no-media', 'no-gap', 'twice']))
  expect(ids(5, 'missing', 'Osprey: too short')).toEqual(now)
  const others = ids(6, 'offline', 'Osprey: too long', 'Lantern: too short')
  expect(new Set(kinds(others.filter((id) => now.includes(id))))).toEqual(new Set(['undelivered']))
  expect(new Set(others).size).toBe(others.length)
})
it('says nothing of what an earlier edition accepted without words', () => {
  expect(told({ ...split, accepted: [{ id: 'overlap a+b 90-100', ...as }] })).toEqual([])
})
