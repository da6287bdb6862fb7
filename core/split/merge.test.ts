import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { foreignPatch, mergeSplits, standing, takeMine, unsettled } from './merge'
import { diffSplit } from './patch'
import { sameSplit, type Region, type Split } from './region'

const region = (id: string, more: Partial<Region> = {}): Region => ({
  ...{ id, name: id, in: 0, out: 100, metadata: {} },
  ...more,
})
const split = (...regions: Region[]): Split => ({ regions, markers: [] })
const base: Split = {
  ...split(region('a', { metadata: { title: 'Fog', no: '1' } }), region('b', { in: 100, out: 200 })),
  markers: [{ id: 'm', at: 10, name: 'Chapter 1' }],
}
const of = (id: string, more: Partial<Region>, from = base): Split => ({
  ...from,
  regions: from.regions.map((r) => (r.id === id ? { ...r, ...more } : r)),
})
const merged = (mine: Split, theirs: Split) => mergeSplits(base, mine, diffSplit(base, theirs))

describe('what two people changed of one split', () => {
  it('is both of it where they changed different regions, or different things of one', () => {
    expect(merged(of('a', { name: 'Fog Bell' }), of('b', { out: 190 }))).toEqual({
      split: of('b', { out: 190 }, of('a', { name: 'Fog Bell' })),
      clashes: [],
    })
    const papers = merged(
      of('a', { in: 5, metadata: { title: 'Fog Bell', no: '1' } }),
      of('a', { out: 95, metadata: { title: 'Fog', no: '2' } }),
    )
    const both = of('a', { in: 5, out: 95, metadata: { title: 'Fog Bell', no: '2' } })
    expect([papers.clashes, sameSplit(papers.split, both)]).toEqual([[], true])
  })
  it('is theirs where both changed the same, and mine is offered', () => {
    const { split: made, clashes } = merged(of('a', { name: 'mine', in: 3 }), of('a', { name: 'theirs', out: 90 }))
    expect(made.regions[0]).toMatchObject({ name: 'theirs', in: 3, out: 90 })
    expect(clashes).toMatchObject([{ of: 'region', id: 'a', mine: { name: 'mine', in: 3, out: 90 } }])
    expect(standing(made, clashes[0]!)).toMatchObject({ name: 'theirs' })
    const taken = takeMine(made, clashes[0]!)
    expect(taken.regions[0]).toMatchObject({ name: 'mine', in: 3, out: 90 })
    expect([unsettled(made, clashes).length, unsettled(taken, clashes).length]).toEqual([1, 0])
  })
  it('is no clash where both did the same', () => {
    const same = of('a', { name: 'Fog Bell' })
    expect(merged(same, same)).toEqual({ split: same, clashes: [] })
  })
  it('offers what one changed and the other took away, either way', () => {
    const without = { ...base, regions: base.regions.slice(1) }
    const theirs = merged(of('a', { name: 'mine' }), without)
    expect(theirs.split.regions.map((r) => r.id)).toEqual(['b'])
    expect(theirs.clashes).toMatchObject([{ id: 'a', mine: { name: 'mine' } }])
    expect(takeMine(theirs.split, theirs.clashes[0]!).regions.map((r) => r.name)).toEqual(['mine', 'b'])
    const mine = merged(without, of('a', { name: 'theirs' }))
    expect(mine.split.regions.map((r) => r.name)).toEqual(['theirs', 'b'])
    expect(mine.clashes).toEqual([{ of: 'region', id: 'a', mine: null }])
    expect(takeMine(mine.split, mine.clashes[0]!).regions.map((r) => r.id)).toEqual(['b'])
  })
  it('never makes a region of ends that cross', () => {
    const { split: made, clashes } = merged(of('a', { in: 60 }), of('a', { out: 50 }))
    expect(made.regions[0]).toMatchObject({ in: 0, out: 50 })
    expect(clashes).toMatchObject([{ mine: { in: 60, out: 100 } }])
  })
  it('keeps one marker a frame, and offers a name that would be lost', () => {
    const marked = (id: string, name: string): Split => ({ ...base, markers: [...base.markers, { id, at: 50, name }] })
    const { split: made, clashes } = merged(marked('x', 'mine'), marked('y', 'theirs'))
    expect(made.markers.map((m) => m.name)).toEqual(['Chapter 1', 'theirs'])
    expect(clashes).toEqual([{ of: 'marker', id: 'x', mine: { id: 'x', at: 50, name: 'mine' } }])
    expect(takeMine(made, clashes[0]!).markers.map((m) => m.name)).toEqual(['Chapter 1', 'mine'])
    expect(merged(marked('x', 'same'), marked('y', 'same')).clashes).toEqual([])
  })
  it('takes nothing for changed whose fields merely stand in another order', () => {
    const without = { ...base, regions: base.regions.slice(1) }
    const turned = base.regions.map(({ id, name, ...rest }) => ({ ...rest, name, id }))
    expect(merged(without, { ...base, regions: turned })).toEqual({ split: without, clashes: [] })
  })
  it('does not take for theirs what came to them from here', () => {
    const sent = of('a', { name: 'sent' })
    const later = of('a', { name: 'later' })
    const theirs = of('b', { name: 'theirs' }, sent)
    const patch = foreignPatch(base, theirs, sent)
    expect(mergeSplits(base, later, patch)).toEqual({ split: of('b', { name: 'theirs' }, later), clashes: [] })
  })
})

const ids = ['a', 'b', 'c', 'd']
const splits: fc.Arbitrary<Split> = fc
  .record({
    regions: fc.subarray(ids).chain((list) =>
      fc.tuple(
        ...list.map((id) =>
          fc.record({
            ...{ id: fc.constant(id), name: fc.constantFrom('x', 'y'), in: fc.constantFrom(0, 40, 60) },
            ...{ out: fc.constantFrom(70, 80), metadata: fc.constantFrom({}, { no: '1' }, { no: '2' }) },
          }),
        ),
      ),
    ),
    markers: fc
      .subarray(['m', 'n'])
      .chain((list) =>
        fc.tuple(
          ...list.map((id) =>
            fc.record({ id: fc.constant(id), at: fc.constant(id === 'm' ? 5 : 9), name: fc.string() }),
          ),
        ),
      ),
  })
  .map((s) => s as Split)

describe('any two changes of one split (property)', () => {
  it('come to the same whoever is first, where nothing clashes', () => {
    fc.assert(
      fc.property(splits, splits, splits, (was, a, b) => {
        const one = mergeSplits(was, a, diffSplit(was, b))
        const other = mergeSplits(was, b, diffSplit(was, a))
        expect(one.clashes.length).toBe(other.clashes.length)
        if (one.clashes.length === 0) expect(sameSplit(one.split, other.split)).toBe(true)
      }),
    )
  })
  it('lose nothing: with every clash turned, what was mine stands in all that I changed', () => {
    fc.assert(
      fc.property(splits, splits, splits, (was, mine, theirs) => {
        const { split: made, clashes } = mergeSplits(was, mine, diffSplit(was, theirs))
        const turned = clashes.reduce(takeMine, made)
        const own = diffSplit(was, mine)
        for (const r of own.regions) {
          const before = was.regions.find((x) => x.id === r.id)
          const now = turned.regions.find((x) => x.id === r.id)!
          if (r.name !== before?.name) expect(now.name).toBe(r.name)
          if (r.in !== before?.in) expect(now.in).toBe(r.in)
          if (r.out !== before?.out) expect(now.out).toBe(r.out)
        }
        for (const id of own.removed) expect(turned.regions.some((r) => r.id === id)).toBe(false)
      }),
    )
  })
})
