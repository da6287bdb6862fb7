import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { audit } from './audit/audit'
import { defaultAudit, type AuditOptions } from './audit/finding'
import {
  addRegions,
  joinWithNext,
  lookAt,
  moveEdge,
  removeRegions,
  renameRegion,
  rollEdges,
  setKind,
  slip,
  splitRegion,
  tidyEdges,
  withLooked,
} from './edit'
import { makeRate } from '../time/rate'
import { shotAt, stretchesOf } from './shots'
import { redo, startHistory, push, undo } from './history'
import { emptySplit, isLookedAt, ordered, sameSplit, type Region, type Split } from './region'

let serial = 0
const newId = () => `r${++serial}`
const region = (id: string, from: number, to: number, name = id): Region => ({
  id,
  name,
  in: from,
  out: to,
  metadata: {},
})
const split = (...regions: Region[]): Split => ({ regions, markers: [] })
const cuts = [0, 100, 200, 300, 400]

it('regions of one range stand in the order of their numbers', () => {
  const ids = ['r10', 'r2', 'r1'].map((id) => region(id, 0, 50))
  expect(ordered([...ids, region('r3', 0, 20)]).map((r) => r.id)).toEqual(['r3', 'r1', 'r2', 'r10'])
})

it('slips regions together, as far as the timeline goes', () => {
  const s = split(region('a', 10, 50), region('b', 60, 90), region('c', 40, 45))
  const ends = (x: Split) => x.regions.map((r) => [r.id, r.in, r.out])
  expect(ends(slip(s, ['a', 'b'], 5, 100))).toEqual([
    ['a', 15, 55],
    ['c', 40, 45],
    ['b', 65, 95],
  ])
  expect(ends(slip(s, ['a', 'b'], 25, 100))[0]).toEqual(['a', 20, 60])
  expect(ends(slip(s, ['a', 'b'], -25, 100))[0]).toEqual(['a', 0, 40])
  // what has no room stays, also where it lies past the end
  for (const stays of [slip(s, ['b'], 1, 90), slip(s, ['b'], 1, 80), slip(s, [], 1, 100)]) expect(stays).toBe(s)
})

describe('audit', () => {
  const kinds = (s: Split, gap = 0) => audit(s, cuts, 400, { ...defaultAudit, gap }).map((f) => f.kind)
  it('finds nothing wrong with a clean split', () =>
    expect(kinds(split(region('a', 0, 100), region('b', 100, 400)))).toEqual([]))
  it('says nothing about a timeline nobody has split yet', () => expect(kinds(emptySplit)).toEqual([]))
  it('finds a region that catches two frames of its neighbour, and mends it', () => {
    const s = split(region('a', 0, 102), region('b', 102, 400))
    const found = audit(s, cuts, 400)
    expect(found.map((f) => f.text)).toEqual([
      '“a” catches 2 frames of the next shot',
      '“b” begins 2 frames after the cut',
    ])
    const mended = found.reduce((x, f) => f.fix!.apply(x), s)
    expect(audit(mended, cuts, 400)).toEqual([])
  })
  it('counts a sliver up to five frames only', () => {
    expect(kinds(split(region('a', 0, 105), region('b', 105, 400)))).toEqual(['sliver', 'sliver'])
    expect(kinds(split(region('a', 0, 106), region('b', 106, 400)))).toEqual(['off-cut'])
  })
  it('finds overlaps, also behind a long region', () => {
    const s = split(region('a', 0, 300), region('b', 100, 200), region('c', 200, 400))
    expect(audit(s, cuts, 400).map((f) => [f.kind, ...f.regions])).toEqual([['overlap', 'a', 'c']])
    const same = split(region('a', 0, 400), region('b', 0, 400))
    expect(kinds(same)).toEqual(['overlap'])
  })
  it('finds frames nobody delivers', () => {
    const f = audit(split(region('a', 0, 188), region('b', 200, 400)), cuts, 400)
    expect(f.map((x) => x.text)).toEqual(['12 frames nobody delivers'])
    expect(f[0]!.range).toEqual({ in: 188, out: 200 })
  })
  it('takes nested regions for what they are, but not what overlaps within them', () => {
    const season = split(region('s', 0, 400), region('e', 0, 100), region('f', 100, 400), region('p', 100, 200))
    expect(kinds(season)).toEqual([])
    const overlapping = split(region('s', 0, 400), region('e', 0, 200), region('f', 100, 400))
    expect(audit(overlapping, cuts, 400).map((f) => f.regions)).toEqual([['e', 'f']])
  })
  const more = (s: Split, options: Partial<AuditOptions>) =>
    audit(s, cuts, 400, { ...defaultAudit, ...options }).map((f) => f.text)
  it('says what one recipient gets twice, in nested regions', () => {
    const outlets = new Map([
      ['s', ['Web', 'North']],
      ['e', ['Web']],
    ])
    const s = split(region('s', 0, 400), region('e', 0, 100))
    expect(more(s, { outlets })).toEqual(['Web gets 100 frames in both “e” and “s”'])
    expect(more(s, { outlets: new Map([['s', ['Web']]]) })).toEqual([])
  })
  it('finds edges within dissolves, and mends them', () => {
    const s = split(region('a', 0, 200), region('b', 200, 400))
    const dissolves = [{ in: 190, out: 210 }]
    const found = audit(s, cuts, 400, { ...defaultAudit, dissolves })
    expect(found.map((f) => f.text)).toEqual([
      '“a” ends within a dissolve or wipe',
      '“b” begins within a dissolve or wipe',
    ])
    expect(found.reduce((x, f) => f.fix!.apply(x), s).regions.map((r) => [r.in, r.out])).toEqual([
      [0, 190],
      [210, 400],
    ])
    // an edge where it begins or has ended shows one picture
    expect(more(s, { dissolves: [{ in: 200, out: 210 }] })).toEqual([])
    expect(more(s, { dissolves: [{ in: 190, out: 200 }] })).toEqual([])
  })
  it('finds flashes of other shots in the pictures, where the list has no cut', () => {
    const s = split(region('a', 0, 200), region('b', 200, 400))
    expect(more(s, { found: [3, 195, 206, 398] })).toEqual([
      '“a” begins with 3 frames of another picture',
      '“a” ends with 5 frames of another picture',
      '“b” ends with 2 frames of another picture',
    ])
    expect(more(s, { found: [6, 194, 200, 394] })).toEqual([])
  })
  it('says which regions hold what has no media', () => {
    const troubles = [
      { in: 90, out: 120, word: 'no media', grave: true },
      { in: 210, out: 220, word: 'several files fit', grave: false },
    ]
    expect(more(split(region('a', 0, 100), region('b', 100, 400)), { troubles })).toEqual([
      '“a”: no media for 10 frames',
      '“b”: no media for 20 frames',
    ])
  })
  it('finds sound that goes on into frames nobody takes, and none where it ends or another region takes over', () => {
    const momentary = Array.from({ length: 80 }, (_, i) => (i < 40 ? -20 : i < 44 ? -30 : null))
    const cutAt = (...regions: Region[]) =>
      audit({ ...emptySplit, regions }, cuts, 200, { ...defaultAudit, momentary }).filter((f) => f.kind === 'sound-cut')
    expect(cutAt(region('a', 20, 80)).map((f) => f.range)).toEqual([
      { in: 10, out: 20 },
      { in: 80, out: 90 },
    ])
    expect(cutAt(region('a', 20, 80), region('b', 80, 120)).map((f) => f.range)).toEqual([{ in: 10, out: 20 }])
    expect(cutAt(region('a', 0, 112))).toEqual([])
    expect(
      audit({ ...emptySplit, regions: [region('a', 20, 80)] }, cuts, 200).some((f) => f.kind === 'sound-cut'),
    ).toBe(false)
  })
  it('says which lengths outlets do not take', () => {
    const lengths = new Map([['a', [{ why: 'Osprey: too short', blocks: true }]]])
    const found = audit(split(region('a', 0, 100)), cuts, 200, { ...defaultAudit, lengths })
    expect(found.find((f) => f.kind === 'length')).toMatchObject({ severity: 'fail', text: '“a”: Osprey: too short' })
  })
  it('asks for a gap only where one is asked', () => {
    const s = split(region('a', 0, 100), region('b', 100, 400))
    expect(kinds(s, 10)).toEqual(['no-gap'])
  })
  it('finds names that some system spells the same, and names that no file can have', () => {
    const named = (...names: string[]) => split(...names.map((n, i) => region(`r${i}`, i * 100, i * 100 + 100, n)))
    const texts = (s: Split) => audit(s, cuts, 400).flatMap((f) => (/name/.test(f.kind) ? [f.text] : []))
    expect(texts(named('Fog Bell', 'fog_bell', 'Caf\u00e9', 'Cafe\u0301'))).toEqual([
      'Some systems spell “Fog Bell” and “fog_bell” the same',
      'Some systems spell “Caf\u00e9” and “Cafe\u0301” the same',
    ])
    expect(texts(named('con', 'What?', 'x'.repeat(241), 'Low Water'))).toEqual([
      '“con” cannot be in the name of a file: “con” is reserved by some systems',
      `“${'x'.repeat(79)} cannot be in the name of a file: a part of it is longer than 240 bytes`,
    ])
  })
  it('finds double names whatever their case, and ranges past the end', () => {
    expect(kinds(split(region('a', 0, 100, 'Fog Bell'), region('b', 100, 410, 'fog bell')))).toEqual([
      'past-end',
      'same-name',
    ])
  })
})

describe('edits', () => {
  it('keep every region at one frame or more and inside the timeline', () => {
    fc.assert(
      fc.property(
        fc.nat(400),
        fc.integer({ min: -50, max: 500 }),
        fc.constantFrom('in' as const, 'out' as const),
        (at, to, edge) => {
          const s = moveEdge(split(region('a', Math.min(at, 399), 400)), 'a', edge, to, 400)
          const r = s.regions[0]!
          expect(r.out).toBeGreaterThan(r.in)
          expect(r.in).toBeGreaterThanOrEqual(0)
          expect(r.out).toBeLessThanOrEqual(400)
        },
      ),
    )
  })
  it('roll together: what touches keeps touching, and everything one frame (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 199 }), fc.integer({ min: -50, max: 250 }), (at, to) => {
        const s: Split = { ...emptySplit, regions: [region('a', 0, at), region('b', at, 200), region('s', 0, 200)] }
        const by = new Map(rollEdges(s, at, to, 200).regions.map((r) => [r.id, r]))
        const [a, s2, b] = ['a', 's', 'b'].map((id) => by.get(id))
        expect([a!.in, a!.out, s2!.in, s2!.out, b!.in, b!.out]).toEqual([0, b!.in, 0, 200, a!.out, 200])
        expect(a!.out).toBe(Math.max(1, Math.min(199, to)))
      }),
    )
    expect(rollEdges({ ...emptySplit, regions: [region('a', 5, 9)] }, 7, 8, 200).regions).toEqual([region('a', 5, 9)])
  })
  it('split and join are each other’s undoing', () => {
    const s = splitRegion(split(region('a', 0, 100)), 'a', 40, newId)
    expect(s.regions.map((r) => [r.in, r.out])).toEqual([
      [0, 40],
      [40, 100],
    ])
    expect(joinWithNext(s, 'a').regions).toEqual([region('a', 0, 100)])
    expect(splitRegion(s, 'a', 0, newId)).toBe(s)
  })
  it('tidy brings edges to cuts within reach', () => {
    expect(tidyEdges(split(region('a', 3, 190)), ['a'], cuts, 5).regions[0]).toMatchObject({ in: 0, out: 190 })
    expect(tidyEdges(split(region('a', 3, 190)), ['a'], cuts, 12).regions[0]).toMatchObject({ in: 0, out: 200 })
  })
  it('adds, renames, removes', () => {
    const { split: s, added } = addRegions(
      emptySplit,
      [
        { in: 50, out: 60, name: 'x' },
        { in: 5, out: 5, name: 'empty' },
        { in: 0, out: 9, name: 'y' },
      ],
      newId,
    )
    expect(s.regions.map((r) => r.name)).toEqual(['y', 'x'])
    expect(renameRegion(s, added[0]!.id, 'z').regions[1]!.name).toBe('z')
    expect(
      removeRegions(
        s,
        added.map((a) => a.id),
      ).regions,
    ).toEqual([])
  })
  it('says what regions are, and keeps it through a split in two', () => {
    const { split: s } = addRegions(emptySplit, [{ in: 0, out: 9, name: 'y', kind: 'part' }], newId)
    expect(s.regions[0]!.kind).toBe('part')
    const id = s.regions[0]!.id
    expect(splitRegion(s, id, 4, newId).regions.map((r) => r.kind)).toEqual(['part', 'part'])
    const none = setKind(s, [id], null)
    expect([none.regions[0]!.kind, sameSplit(none, s), sameSplit(setKind(none, [id], 'part'), s)]).toEqual([
      undefined,
      false,
      true,
    ])
  })
  it('finds the shot under a frame', () => {
    const shots = [
      { in: 0, out: 10, name: 'a', reel: '' },
      { in: 10, out: 20, name: 'b', reel: '' },
    ]
    expect([shotAt(shots, 9)?.name, shotAt(shots, 10)?.name, shotAt(shots, 20)]).toEqual(['a', 'b', null])
  })
})

describe('history', () => {
  it('undoes and redoes by name, and a drag is one step', () => {
    let h = startHistory(0)
    h = push(h, 'a', 1)
    h = push(h, 'drag', 2, true)
    h = push(h, 'drag', 3, true)
    expect(undo(h).present).toBe(1)
    expect(redo(undo(h))).toEqual(h)
    expect(undo(undo(undo(h))).present).toBe(0)
    expect(push(undo(h), 'b', 9).future).toEqual([])
  })
})

describe('stretches of sound alone', () => {
  it('lie between its markers, by their names, and cover all', () => {
    const markers = [
      { id: 'b', at: 50, name: 'Bell' },
      { id: 'a', at: 10, name: 'Fog' },
      { id: 'x', at: 100, name: 'past the end' },
    ]
    expect(stretchesOf(markers, 100)).toEqual([
      { in: 0, out: 10, name: '', reel: '' },
      { in: 10, out: 50, name: 'Fog', reel: '' },
      { in: 50, out: 100, name: 'Bell', reel: '' },
    ])
    expect(stretchesOf([], 7)).toEqual([{ in: 0, out: 7, name: '', reel: '' }])
  })
  it('are audited in words that count samples and seconds', () => {
    const s = split(region('a', 0, 48_000), region('b', 48_007, 96_000))
    const texts = audit(s, [], 200_000, { ...defaultAudit, rate: makeRate(48000) }).map((f) => f.text)
    expect(texts).toEqual(['7 samples nobody delivers', '2.167 s nobody delivers'])
  })
})

describe('what was looked at', () => {
  const looked = lookAt(split(region('a', 0, 100), region('b', 100, 200)), ['a', 'b'], true)
  const seen = (s: Split) => s.regions.filter(isLookedAt).map((r) => r.id)
  it('counts until an edge moves, and again when it is back', () => {
    expect(seen(looked)).toEqual(['a', 'b'])
    const moved = moveEdge(looked, 'a', 'out', 99, 400)
    expect(seen(moved)).toEqual(['b'])
    expect(seen(moveEdge(moved, 'a', 'out', 100, 400))).toEqual(['a', 'b'])
    expect(seen(renameRegion(looked, 'a', 'other'))).toEqual(['a', 'b'])
    expect(seen(splitRegion(looked, 'a', 50, newId))).toEqual(['b'])
  })
  it('can be taken back', () => expect(seen(lookAt(looked, ['a'], false))).toEqual(['b']))
  it('is no step: undo takes it along, and brings none back that was taken back', () => {
    const before = split(region('a', 0, 100), region('b', 110, 200))
    expect(seen(withLooked(before, looked))).toEqual(['a'])
    expect(seen(withLooked(looked, lookAt(looked, ['b'], false)))).toEqual(['a'])
  })
  it('is part of what is kept', () => {
    const plain = split(region('a', 0, 100), region('b', 100, 200))
    expect([sameSplit(plain, looked), sameSplit(looked, lookAt(plain, ['b', 'a'], true))]).toEqual([false, true])
  })
})
