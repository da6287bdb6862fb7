import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { findingId } from '../../core/split/audit/finding'
import { isLookedAt, type Split } from '../../core/split/region'
import { makeRate } from '../../core/time/rate'
import type { ShownTimeline } from '../../contract/timelines'
import { applyPatch, type Patch } from '../../core/split/patch'
import { useAudit } from './audit'
import { useEditor } from './editor'
import { useProblems } from './problems'
import { useTimelines } from './timelines'

const event = (from: number, to: number, name: string) => ({
  track: 'V',
  kind: 'video' as const,
  name,
  reel: name,
  file: null,
  source: null,
  speed: { num: 1, den: 1 },
  record: { in: from, out: to },
  transition: null,
})
const model = {
  name: 'Reel',
  rate: makeRate(25),
  dropFrame: false,
  start: 900_000,
  length: 300,
  tracks: [{ name: 'V', kind: 'video' as const }],
  markers: [],
  events: [event(0, 100, 'wide'), event(100, 180, 'close'), event(180, 300, 'gannets')],
}
/** Splits as the server has them, by their version. */
const kept = new Map<number, Split>()
const timeline = (split: Split = { regions: [], markers: [] }, version = 1, id = 't') => {
  kept.set(version, split)
  return { id, name: 'Reel', model, split, splitVersion: version } as unknown as ShownTimeline
}

/** A server that keeps one split, as the real one does. */
let saved: { split: Split; version: number }[] = []
let answer: (body: { split: Split; version: number }) => { status: number; json: unknown }

function storage() {
  const m = new Map<string, string>()
  return {
    getItem: (k: string) => m.get(k) ?? null,
    setItem: (k: string, v: string) => void m.set(k, v),
    removeItem: (k: string) => void m.delete(k),
  }
}

beforeEach(() => {
  vi.useRealTimers()
  setActivePinia(createPinia())
  vi.stubGlobal('localStorage', storage())
  vi.stubGlobal('sessionStorage', storage())
  saved = []
  answer = (body) => {
    saved.push(body)
    return { status: 200, json: { version: body.version + 1 } }
  }
  online()
})

function online() {
  vi.stubGlobal('fetch', async (_: string, o: { body: string }) => {
    const { patch, version } = JSON.parse(o.body) as { patch: Patch; version: number }
    const split = applyPatch(kept.get(version)!, patch)
    const a = answer({ split, version })
    if (a.status < 300) kept.set((a.json as { version: number }).version, split)
    return { ok: a.status < 300, status: a.status, json: async () => a.json }
  })
}

const quiet = async (desk: ReturnType<typeof useEditor>) =>
  vi.waitFor(() => expect(desk.saving || desk.unsaved).toBe(false), 10_000)

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
    expect(desk.history.past.at(-1)!.label).toBe('made 2 regions')
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
    desk.lookAt([desk.regions[0]!.id], true)
    expect(desk.history.past).toHaveLength(2)
    desk.undo()
    expect(desk.regions.map((r) => [r.name, isLookedAt(r)])).toEqual([['a', true]])
    desk.trim(desk.regions[0]!.id, 'out', 99)
    expect(isLookedAt(desk.regions[0]!)).toBe(false)
    desk.undo()
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
    desk.undo()
    useAudit().fixAll('sliver')
    expect([slivers(), desk.history.past.at(-1)!.label]).toEqual([0, 'mended 3 slivers'])
    desk.jump(-3)
    expect([desk.regions.length, desk.history.future.length]).toEqual([0, 3])
    desk.jump(2)
    expect([slivers(), useAudit().accepted.length]).toEqual([3, 1])
  })
  it('undoes and redoes by name', () => {
    const desk = three()
    const [a] = desk.regions
    desk.rename(a!.id, 'Morning Chain')
    desk.trim(a!.id, 'out', 98)
    expect(desk.history.past.map((s) => s.label)).toEqual(['made 3 regions', 'renamed', 'moved tail'])
    desk.undo()
    expect(desk.regions[0]).toMatchObject({ name: 'Morning Chain', out: 100 })
    desk.undo()
    expect(desk.regions[0]!.name).toBe('wide')
    desk.redo()
    desk.redo()
    expect(desk.regions[0]).toMatchObject({ name: 'Morning Chain', out: 98 })
  })
  it('a drag is one step', () => {
    const desk = three()
    const { id } = desk.regions[0]!
    for (const to of [99, 98, 97, 96]) desk.trim(id, 'out', to, true)
    desk.undo()
    expect(desk.regions[0]!.out).toBe(100)
  })
  it('a drag is saved and audited when it is dropped, and the next is a step of its own', () => {
    const desk = three()
    const { id } = desk.regions[0]!
    const slivers = () => useAudit().findings.filter((f) => f.kind === 'sliver').length
    const before = slivers()
    const saved = vi.spyOn(desk, 'save')
    for (const to of [99, 98]) desk.trim(id, 'out', to, true)
    expect([slivers() - before, saved.mock.calls.length]).toEqual([0, 0])
    desk.drop()
    expect([slivers() - before, saved.mock.calls.length]).toEqual([1, 1])
    desk.trim(id, 'out', 60, true)
    desk.drop()
    desk.undo()
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

describe('saving', () => {
  it('saves every step with the version it was made from, one after the other', async () => {
    const desk = laid()
    desk.makeRegion()
    desk.rename(desk.regions[0]!.id, 'a')
    desk.rename(desk.regions[0]!.id, 'b')
    await quiet(desk)
    expect(saved.map((s) => s.version)).toEqual([1, 2])
    expect(saved.at(-1)!.split.regions[0]!.name).toBe('b')
    expect(desk.version).toBe(3)
  })
  describe('beside another window', () => {
    const region = (id: string, name: string, from: number, to: number) => ({
      ...{ id, name, in: from, out: to, metadata: {} },
    })
    const base: Split = { regions: [region('a', 'A', 0, 100), region('b', 'B', 100, 180)], markers: [] }
    /** The desk of one window, and a server that has taken the other's change as version 2. */
    function beside(theirs: Split) {
      const desk = useEditor()
      desk.lay(timeline(base))
      useTimelines().load = async () => void useTimelines().$patch({ all: [timeline(theirs, 2)] })
      answer = (b) =>
        b.version === 1
          ? { status: 409, json: { error: { code: 'split.moved-on', message: 'moved on' } } }
          : (saved.push(b), { status: 200, json: { version: b.version + 1 } })
      return desk
    }
    const names = (s: Split) => s.regions.map((r) => r.name)
    it('keeps what both changed, and undoes only its own', async () => {
      const desk = beside({ ...base, regions: [base.regions[0]!, region('b', 'theirs', 100, 170)] })
      desk.rename('a', 'mine')
      await quiet(desk)
      expect(names(saved.at(-1)!.split)).toEqual(['mine', 'theirs'])
      expect([desk.version, desk.clashes, useProblems().all]).toEqual([3, [], []])
      desk.undo()
      expect(desk.regions.map((r) => [r.name, r.out])).toEqual([
        ['A', 100],
        ['theirs', 170],
      ])
    })
    it('offers what both changed to different ends, over a reload too, until it is settled', async () => {
      const desk = beside({ ...base, regions: [region('a', 'theirs', 0, 100), base.regions[1]!] })
      desk.rename('a', 'mine')
      await quiet(desk)
      expect([names(desk.split), saved.length]).toEqual([['theirs', 'B'], 0])
      expect(desk.clashes).toMatchObject([{ id: 'a', mine: { name: 'mine' } }])
      setActivePinia(createPinia())
      const again = useEditor()
      again.lay(timeline(desk.split, 2))
      expect(again.clashes).toMatchObject([{ id: 'a', mine: { name: 'mine' } }])
      again.settle(again.clashes, true)
      await quiet(again)
      expect([names(saved.at(-1)!.split), again.clashes]).toEqual([['mine', 'B'], []])
      again.undo()
      expect(again.clashes).toEqual([])
      expect(names(again.split)).toEqual(['theirs', 'B'])
    })
    it('takes in what comes while nothing is changed here, and keeps its steps', async () => {
      const desk = laid()
      desk.makeRegion()
      await quiet(desk)
      const own = desk.regions[0]!
      desk.lay(timeline({ regions: [own, region('x', 'theirs', 200, 300)], markers: [] }, 9))
      expect([desk.version, desk.regions.length]).toEqual([9, 2])
      desk.undo()
      expect(names(desk.split)).toEqual(['theirs'])
    })
    it('says so and tries again when the newer state cannot be had', async () => {
      const desk = beside(base)
      useTimelines().load = async () => void useTimelines().$patch({ all: [timeline(base, 1)] })
      vi.useFakeTimers()
      desk.rename('a', 'mine')
      await vi.advanceTimersByTimeAsync(10)
      expect([useProblems().all.map((p) => p.code), names(desk.split)]).toEqual([['split.moved-on'], ['mine', 'B']])
      answer = (b) => (saved.push(b), { status: 200, json: { version: 2 } })
      await vi.advanceTimersByTimeAsync(3100)
      expect(names(saved.at(-1)!.split)).toEqual(['mine', 'B'])
    })
  })
  it('keeps a change that could not be saved and tries again', async () => {
    const desk = laid()
    answer = () => ({ status: 500, json: { error: { code: 'internal.error', message: 'x' } } })
    vi.useFakeTimers()
    desk.makeRegion()
    await vi.advanceTimersByTimeAsync(10)
    expect(desk.regions).toHaveLength(1)
    answer = (b) => {
      saved.push(b)
      return { status: 200, json: { version: 2 } }
    }
    await vi.advanceTimersByTimeAsync(3100)
    expect(saved).toHaveLength(1)
  })
  it('finds place and history again after a reload', async () => {
    const desk = laid()
    desk.makeRegion()
    desk.go(150)
    desk.keepPlace()
    await quiet(desk)
    desk.keepHistory()
    setActivePinia(createPinia())
    const again = useEditor()
    again.lay(timeline(saved.at(-1)!.split, 2))
    expect(again.playhead).toBe(150)
    again.undo()
    expect(again.regions).toEqual([])
  })
  it('keeps the history though what was looked at is not saved yet', async () => {
    const desk = laid()
    desk.makeRegion()
    await quiet(desk)
    const { split, version } = saved.at(-1)!
    desk.lookAt([desk.regions[0]!.id], true)
    desk.keepHistory()
    setActivePinia(createPinia())
    const again = useEditor()
    again.lay(timeline(split, version + 1))
    again.undo()
    expect(again.regions).toEqual([])
  })
  it('keeps of the history what the server has, and fewer steps where the browser has no room for all', async () => {
    const desk = laid()
    desk.makeRegion()
    for (const name of ['a', 'b', 'c']) desk.rename(desk.regions[0]!.id, name)
    await quiet(desk)
    vi.stubGlobal('fetch', () => new Promise(() => undefined))
    desk.rename(desk.regions[0]!.id, 'not yet')
    const store = sessionStorage.setItem.bind(sessionStorage)
    const full = 500
    sessionStorage.setItem = (key: string, value: string) => {
      if (value.length > full) throw new Error('full')
      store(key, value)
    }
    desk.keepHistory()
    const kept = JSON.parse(sessionStorage.getItem('velvet.history.t')!) as {
      version: number
      history: { past: { value: Split }[]; present: Split }
    }
    expect(kept.history.present.regions[0]!.name).toBe('c')
    expect(kept.history.past.length).toBeGreaterThan(0)
    expect(kept.history.past.length).toBeLessThan(4)
    expect(kept.history.past.at(-1)!.value.regions[0]!.name).toBe('b')
  })
  describe('after a reload that came before the server had it', () => {
    /** A desk with a region named in three steps, of which the server has not answered any. */
    const cutOff = () => {
      const desk = laid()
      vi.stubGlobal('fetch', () => new Promise(() => undefined))
      desk.makeRegion()
      const sent = desk.split
      desk.rename(desk.regions[0]!.id, 'a')
      desk.rename(desk.regions[0]!.id, 'b')
      setActivePinia(createPinia())
      online()
      return { sent, again: useEditor() }
    }
    it('puts the last change on the desk and saves it', async () => {
      const { again } = cutOff()
      again.lay(timeline())
      expect(again.regions.map((r) => r.name)).toEqual(['b'])
      await quiet(again)
      expect(saved.at(-1)).toMatchObject({ version: 1, split: { regions: [{ name: 'b' }] } })
      again.undo()
      expect(again.regions).toEqual([])
    })
    it('goes on from what had arrived in the meantime', async () => {
      const { sent, again } = cutOff()
      again.lay(timeline(sent, 2))
      await quiet(again)
      expect(saved.at(-1)).toMatchObject({ version: 2, split: { regions: [{ name: 'b' }] } })
    })
    it('goes on from what arrives only now', async () => {
      const { sent, again } = cutOff()
      useTimelines().load = async () => void useTimelines().$patch({ all: [timeline(sent, 2)] })
      answer = (b) =>
        b.version === 1
          ? { status: 409, json: { error: { code: 'split.moved-on', message: 'moved on' } } }
          : (saved.push(b), { status: 200, json: { version: 3 } })
      again.lay(timeline())
      await vi.waitFor(() => expect(saved).toHaveLength(1), 10_000)
      expect(saved[0]).toMatchObject({ version: 2, split: { regions: [{ name: 'b' }] } })
      expect(useProblems().all).toEqual([])
    })
    it('is kept beside what another window changed meanwhile', async () => {
      const { again } = cutOff()
      again.lay(timeline({ regions: [{ id: 'x', name: 'theirs', in: 0, out: 10, metadata: {} }], markers: [] }, 2))
      await quiet(again)
      expect(saved.at(-1)!.split.regions.map((r) => r.name)).toEqual(expect.arrayContaining(['theirs', 'b']))
    })
  })
  it('keeps to its own timeline when another is laid on the desk meanwhile', async () => {
    const sent: { id: string; patch: Patch }[] = []
    let open: () => void = () => undefined
    vi.stubGlobal('fetch', async (url: string, o: { body: string }) => {
      const { patch, version } = JSON.parse(o.body) as { patch: Patch; version: number }
      sent.push({ id: url.split('/')[3]!, patch })
      await new Promise<void>((resolve) => (open = resolve))
      return { ok: true, status: 200, json: async () => ({ version: version + 1 }) }
    })
    const desk = laid()
    desk.makeRegion()
    const id = desk.regions[0]!.id
    desk.rename(id, 'first')
    desk.lay(timeline({ regions: [{ id: 'o', name: 'other', in: 0, out: 9, metadata: {} }], markers: [] }, 5, 'u'))
    open()
    await vi.waitFor(() => expect(sent).toHaveLength(2))
    open()
    await vi.waitFor(() => expect(sessionStorage.getItem('velvet.unsaved.t')).toBeNull())
    expect(sent.map((s) => s.id)).toEqual(['t', 't'])
    expect(sent[1]!.patch.regions).toMatchObject([{ id, name: 'first' }])
    expect([desk.id, desk.version, desk.regions.map((r) => r.name)]).toEqual(['u', 5, ['other']])
    desk.rename('o', 'changed')
    await vi.waitFor(() => expect(sent).toHaveLength(3))
    expect(sent[2]).toMatchObject({ id: 'u', patch: { regions: [{ id: 'o', name: 'changed' }] } })
  })
  it('does not take over an older split while its own is on the way', () => {
    const desk = laid()
    desk.makeRegion()
    desk.lay(timeline({ regions: [], markers: [] }, 1))
    expect(desk.regions).toHaveLength(1)
  })
})
