import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { findingId } from '../../core/split/audit/finding'
import { isLookedAt } from '../../core/split/region'
import { event, model, startAnew, timeline } from '../../tests/splitserver'
import { useAudit } from './audit'
import { useEditor } from './editor'
import { useSplit } from './split'

beforeEach(() => {
  startAnew()
  setActivePinia(createPinia())
})

function laid() {
  const desk = useEditor()
  desk.lay(timeline())
  return desk
}

it('lays one timeline after another, and leaves each as it was', () => {
  const first = timeline({ regions: [{ id: 'a', name: 'A', in: 0, out: 100, metadata: {} }], markers: [] })
  const second = {
    ...timeline(),
    id: 'u',
    model: { ...model, name: 'Other', length: 90, events: [event(0, 90, 'bell')] },
  }
  const before = JSON.stringify([first, second])
  const desk = useEditor()
  desk.lay(first)
  desk.lay(second)
  expect([desk.shots.map((s) => s.name), desk.regions, desk.length]).toEqual([['bell'], [], 90])
  desk.lay(first)
  expect([desk.shots.map((s) => s.name), desk.regions.map((r) => r.name)]).toEqual([
    ['wide', 'close', 'gannets'],
    ['A'],
  ])
  expect(JSON.stringify([first, second])).toBe(before)
})

describe('making regions', () => {
  it('of the shot under the playhead, named at once', () => {
    const desk = laid()
    desk.go(120)
    desk.makeRegion()
    expect(desk.regions.map((r) => [r.in, r.out, r.name])).toEqual([[100, 180, 'close']])
    expect(desk.naming).toBe(desk.regions[0]!.id)
    expect(desk.selected).toEqual([desk.regions[0]!.id])
  })
  it('of the marked range, whose out is the first frame not included', () => {
    const desk = laid()
    desk.go(10)
    desk.mark('in')
    desk.go(19)
    desk.mark('out')
    expect(desk.marked).toEqual({ in: 10, out: 20 })
    desk.makeRegion()
    expect(desk.regions[0]).toMatchObject({ in: 10, out: 20, name: '' })
    expect(desk.marked).toBeNull()
  })
  it('a mark on the wrong side of the other takes its place', () => {
    const desk = laid()
    desk.go(50)
    desk.mark('out')
    desk.go(80)
    desk.mark('in')
    expect([desk.markIn, desk.markOut]).toEqual([80, null])
  })
  it('one for each selected shot', () => {
    const desk = laid()
    desk.shotsSelected = [0, 2]
    desk.makeFromShots()
    expect(desk.regions.map((r) => r.name)).toEqual(['wide', 'gannets'])
    expect(useSplit().history.past.at(-1)!.label).toBe('made 2 regions')
    desk.makeFromShots()
    expect(desk.regions).toHaveLength(2)
  })
})

describe('editing', () => {
  function three() {
    const desk = laid()
    desk.shotsSelected = [0, 1, 2]
    desk.makeFromShots()
    return desk
  }
  it('keeps what was looked at through undo and redo: it is no step', () => {
    const desk = laid()
    desk.make([{ in: 0, out: 100, name: 'a' }], true)
    desk.rename(desk.regions[0]!.id, 'b')
    useSplit().lookAt([desk.regions[0]!.id], true)
    expect(useSplit().history.past).toHaveLength(2)
    useSplit().undo()
    expect(desk.regions.map((r) => [r.name, isLookedAt(r)])).toEqual([['a', true]])
    desk.trim(desk.regions[0]!.id, 'out', 99)
    expect(isLookedAt(desk.regions[0]!)).toBe(false)
    useSplit().undo()
    expect(isLookedAt(desk.regions[0]!)).toBe(true)
  })
  it('accepts a fault as it is, until its region moves; mends all alike in one step', () => {
    const desk = laid()
    const list = [
      { in: 0, out: 102, name: 'a' },
      { in: 102, out: 182, name: 'b' },
      { in: 182, out: 300, name: 'c' },
    ]
    desk.make(list, true)
    const slivers = () => useAudit().findings.filter((f) => f.kind === 'sliver').length
    expect(slivers()).toBe(4)
    useAudit().accept([useAudit().findings[0]!], { reason: 'the tail belongs to it', initials: 'QP' })
    expect([slivers(), useAudit().accepted.map((a) => a.as.initials)]).toEqual([3, ['QP']])
    desk.trim(desk.regions[0]!.id, 'out', 103)
    expect([slivers(), useAudit().accepted]).toEqual([4, []])
    // one of very many regions is told by its first ones
    const id = findingId({ ...useAudit().findings[0]!, regions: Array.from({ length: 2000 }, (_, i) => `region ${i}`) })
    expect(id.length).toBeLessThan(200)
    useSplit().undo()
    useAudit().fixAll('sliver')
    expect([slivers(), useSplit().history.past.at(-1)!.label]).toEqual([0, 'mended 3 slivers'])
    useSplit().jump(-3)
    expect([desk.regions.length, useSplit().history.future.length]).toEqual([0, 3])
    useSplit().jump(2)
    expect([slivers(), useAudit().accepted.length]).toEqual([3, 1])
  })
  it('undoes and redoes by name', () => {
    const desk = three()
    const [a] = desk.regions
    desk.rename(a!.id, 'Morning Chain')
    desk.trim(a!.id, 'out', 98)
    expect(useSplit().history.past.map((s) => s.label)).toEqual(['made 3 regions', 'renamed', 'moved tail'])
    useSplit().undo()
    expect(desk.regions[0]).toMatchObject({ name: 'Morning Chain', out: 100 })
    useSplit().undo()
    expect(desk.regions[0]!.name).toBe('wide')
    useSplit().redo()
    useSplit().redo()
    expect(desk.regions[0]).toMatchObject({ name: 'Morning Chain', out: 98 })
  })
  it('a drag is one step', () => {
    const desk = three()
    const { id } = desk.regions[0]!
    for (const to of [99, 98, 97, 96]) desk.trim(id, 'out', to, true)
    useSplit().undo()
    expect(desk.regions[0]!.out).toBe(100)
  })
  it('a drag is saved and audited when it is dropped, and the next is a step of its own', () => {
    const desk = three()
    const { id } = desk.regions[0]!
    const slivers = () => useAudit().findings.filter((f) => f.kind === 'sliver').length
    const before = slivers()
    const saved = vi.spyOn(useSplit(), 'save')
    for (const to of [99, 98]) desk.trim(id, 'out', to, true)
    expect([slivers() - before, saved.mock.calls.length]).toEqual([0, 0])
    useSplit().drop()
    expect([slivers() - before, saved.mock.calls.length]).toEqual([1, 1])
    desk.trim(id, 'out', 60, true)
    useSplit().drop()
    useSplit().undo()
    expect(desk.regions[0]!.out).toBe(98)
  })
  it('splits at the playhead, joins, tidies, deletes', () => {
    const desk = three()
    desk.go(40)
    desk.splitHere()
    expect(desk.regions.map((r) => [r.in, r.out])).toEqual([
      [0, 40],
      [40, 100],
      [100, 180],
      [180, 300],
    ])
    desk.select(desk.regions[0]!.id)
    desk.join()
    expect(desk.regions.map((r) => r.in)).toEqual([0, 100, 180])
    desk.trim(desk.regions[0]!.id, 'out', 103)
    expect(useAudit().findings.map((f) => f.kind)).toEqual(['overlap', 'sliver'])
    useAudit().fix(useAudit().findings[1]!)
    expect(useAudit().findings).toEqual([])
    desk.trim(desk.regions[0]!.id, 'out', 97)
    desk.tidy()
    expect(desk.regions[0]!.out).toBe(100)
    desk.select(desk.regions[1]!.id)
    desk.remove()
    expect(desk.regions.map((r) => r.in)).toEqual([0, 180])
    expect(useAudit().findings.map((f) => f.text)).toEqual(['80 frames nobody delivers'])
  })
  it('selects with click, shift and control', () => {
    const desk = three()
    const ids = desk.regions.map((r) => r.id)
    desk.select(ids[0]!)
    desk.select(ids[2]!, 'range')
    expect(desk.selected).toEqual(ids)
    desk.select(ids[1]!, 'toggle')
    expect(desk.selected).toEqual([ids[0], ids[2]])
  })
  it('goes from cut to cut and stays inside', () => {
    const desk = laid()
    desk.go(0)
    const seen = [0, 1, 2, 3].map(() => {
      desk.goToCut(1)
      return desk.playhead
    })
    expect(seen).toEqual([100, 180, 299, 299])
    desk.goToCut(-1)
    expect(desk.playhead).toBe(180)
    desk.go(-50)
    expect(desk.playhead).toBe(0)
  })
  it('sets and takes away a chapter marker', () => {
    const desk = laid()
    desk.go(42)
    desk.chapter()
    expect(desk.split.markers).toMatchObject([{ at: 42, name: 'Chapter 1' }])
    desk.chapter()
    expect(desk.split.markers).toEqual([])
  })
})

describe('marks', () => {
  it('offer the frame before where the last one marked is the first of another shot', () => {
    const desk = useEditor()
    desk.lay(timeline())
    desk.go(20)
    desk.mark('in')
    desk.go(100)
    desk.mark('out')
    expect([desk.marked, desk.overCut]).toEqual([{ in: 20, out: 101 }, true])
    desk.mark('out')
    expect([desk.marked, desk.overCut]).toEqual([{ in: 20, out: 100 }, false])
    // marked once more it is as it was asked for first
    desk.mark('out')
    expect(desk.marked).toEqual({ in: 20, out: 101 })
  })
  it('take a first frame that is the only one, and any other', () => {
    const desk = useEditor()
    desk.lay(timeline())
    desk.go(100)
    desk.mark('in')
    desk.mark('out')
    expect([desk.marked, desk.overCut]).toEqual([{ in: 100, out: 101 }, false])
    desk.go(120)
    desk.mark('out')
    desk.mark('out')
    expect(desk.marked).toEqual({ in: 100, out: 121 })
  })
})
