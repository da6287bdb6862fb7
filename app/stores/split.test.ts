import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Patch } from '../../core/split/patch'
import type { Split } from '../../core/split/region'
import { online, server, startAnew, take, timeline } from '../../tests/splitserver'
import { useEditor } from './editor'
import { useProblems } from './problems'
import { useSplit } from './split'
import { useTimelines } from './timelines'

beforeEach(() => {
  startAnew()
  setActivePinia(createPinia())
})

function laid() {
  const desk = useEditor()
  desk.lay(timeline())
  return desk
}

/** Until everything is saved. */
const quiet = async () => expect.poll(() => useSplit().saving || useSplit().unsaved).toBe(false)

describe('saving', () => {
  it('saves every step with the version it was made from, one after the other', async () => {
    const desk = laid()
    desk.makeRegion()
    desk.rename(desk.regions[0]!.id, 'a')
    desk.rename(desk.regions[0]!.id, 'b')
    await quiet()
    expect(server.saved.map((s) => s.version)).toEqual([1, 2])
    expect(server.saved.at(-1)!.split.regions[0]!.name).toBe('b')
    expect(useSplit().version).toBe(3)
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
      server.answer = (b) =>
        b.version === 1 ? { status: 409, json: { error: { code: 'split.moved-on', message: 'moved on' } } } : take(b)
      return desk
    }
    const names = (s: Split) => s.regions.map((r) => r.name)
    it('keeps what both changed, and undoes only its own', async () => {
      const desk = beside({ ...base, regions: [base.regions[0]!, region('b', 'theirs', 100, 170)] })
      desk.rename('a', 'mine')
      await quiet()
      expect(names(server.saved.at(-1)!.split)).toEqual(['mine', 'theirs'])
      expect([useSplit().version, useSplit().clashes, useProblems().all]).toEqual([3, [], []])
      useSplit().undo()
      expect(desk.regions.map((r) => [r.name, r.out])).toEqual([
        ['A', 100],
        ['theirs', 170],
      ])
    })
    it('offers what both changed to different ends, over a reload too, until it is settled', async () => {
      const desk = beside({ ...base, regions: [region('a', 'theirs', 0, 100), base.regions[1]!] })
      desk.rename('a', 'mine')
      await quiet()
      expect([names(desk.split), server.saved.length]).toEqual([['theirs', 'B'], 0])
      expect(useSplit().clashes).toMatchObject([{ id: 'a', mine: { name: 'mine' } }])
      setActivePinia(createPinia())
      const again = useEditor()
      again.lay(timeline(desk.split, 2))
      expect(useSplit().clashes).toMatchObject([{ id: 'a', mine: { name: 'mine' } }])
      useSplit().settle(useSplit().clashes, true)
      await quiet()
      expect([names(server.saved.at(-1)!.split), useSplit().clashes]).toEqual([['mine', 'B'], []])
      useSplit().undo()
      expect(useSplit().clashes).toEqual([])
      expect(names(again.split)).toEqual(['theirs', 'B'])
    })
    it('takes in what comes while nothing is changed here, and keeps its steps', async () => {
      const desk = laid()
      desk.makeRegion()
      await quiet()
      const own = desk.regions[0]!
      desk.lay(timeline({ regions: [own, region('x', 'theirs', 200, 300)], markers: [] }, 9))
      expect([useSplit().version, desk.regions.length]).toEqual([9, 2])
      useSplit().undo()
      expect(names(desk.split)).toEqual(['theirs'])
    })
    it('says so and tries again when the newer state cannot be had', async () => {
      const desk = beside(base)
      useTimelines().load = async () => void useTimelines().$patch({ all: [timeline(base, 1)] })
      vi.useFakeTimers()
      desk.rename('a', 'mine')
      await vi.advanceTimersByTimeAsync(10)
      expect([useProblems().all.map((p) => p.code), names(desk.split)]).toEqual([['split.moved-on'], ['mine', 'B']])
      server.answer = (b) => take(b)
      await vi.advanceTimersByTimeAsync(3100)
      expect(names(server.saved.at(-1)!.split)).toEqual(['mine', 'B'])
    })
  })
  it('keeps a change that could not be server.saved and tries again', async () => {
    const desk = laid()
    server.answer = () => ({ status: 500, json: { error: { code: 'internal.error', message: 'x' } } })
    vi.useFakeTimers()
    desk.makeRegion()
    await vi.advanceTimersByTimeAsync(10)
    expect(desk.regions).toHaveLength(1)
    server.answer = (b) => {
      server.saved.push(b)
      return { status: 200, json: { version: 2 } }
    }
    await vi.advanceTimersByTimeAsync(3100)
    expect(server.saved).toHaveLength(1)
  })
  it('finds place and history again after a reload', async () => {
    const desk = laid()
    desk.makeRegion()
    desk.go(150)
    desk.keepPlace()
    await quiet()
    useSplit().keepHistory()
    setActivePinia(createPinia())
    const again = useEditor()
    again.lay(timeline(server.saved.at(-1)!.split, 2))
    expect(again.playhead).toBe(150)
    useSplit().undo()
    expect(again.regions).toEqual([])
  })
  it('keeps the history though what was looked at is not server.saved yet', async () => {
    const desk = laid()
    desk.makeRegion()
    await quiet()
    const { split, version } = server.saved.at(-1)!
    useSplit().lookAt([desk.regions[0]!.id], true)
    useSplit().keepHistory()
    setActivePinia(createPinia())
    const again = useEditor()
    again.lay(timeline(split, version + 1))
    useSplit().undo()
    expect(again.regions).toEqual([])
  })
  it('keeps of the history what the server has, and fewer steps where the browser has no room for all', async () => {
    const desk = laid()
    desk.makeRegion()
    for (const name of ['a', 'b', 'c']) desk.rename(desk.regions[0]!.id, name)
    await quiet()
    vi.stubGlobal('fetch', () => new Promise(() => undefined))
    desk.rename(desk.regions[0]!.id, 'not yet')
    const store = sessionStorage.setItem.bind(sessionStorage)
    const full = 500
    sessionStorage.setItem = (key: string, value: string) => {
      if (value.length > full) throw new Error('full')
      store(key, value)
    }
    useSplit().keepHistory()
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
      await quiet()
      expect(server.saved.at(-1)).toMatchObject({ version: 1, split: { regions: [{ name: 'b' }] } })
      useSplit().undo()
      expect(again.regions).toEqual([])
    })
    it('goes on from what had arrived in the meantime', async () => {
      const { sent, again } = cutOff()
      again.lay(timeline(sent, 2))
      await quiet()
      expect(server.saved.at(-1)).toMatchObject({ version: 2, split: { regions: [{ name: 'b' }] } })
    })
    it('goes on from what arrives only now', async () => {
      const { sent, again } = cutOff()
      useTimelines().load = async () => void useTimelines().$patch({ all: [timeline(sent, 2)] })
      server.answer = (b) =>
        b.version === 1 ? { status: 409, json: { error: { code: 'split.moved-on', message: 'moved on' } } } : take(b)
      again.lay(timeline())
      await expect.poll(() => server.saved).toHaveLength(1)
      expect(server.saved[0]).toMatchObject({ version: 2, split: { regions: [{ name: 'b' }] } })
      expect(useProblems().all).toEqual([])
    })
    it('is kept beside what another window changed meanwhile', async () => {
      const { again } = cutOff()
      again.lay(timeline({ regions: [{ id: 'x', name: 'theirs', in: 0, out: 10, metadata: {} }], markers: [] }, 2))
      await quiet()
      expect(server.saved.at(-1)!.split.regions.map((r) => r.name)).toEqual(expect.arrayContaining(['theirs', 'b']))
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
    await expect.poll(() => sent).toHaveLength(2)
    open()
    await expect.poll(() => sessionStorage.getItem('velvet.unsaved.t')).toBeNull()
    expect(sent.map((s) => s.id)).toEqual(['t', 't'])
    expect(sent[1]!.patch.regions).toMatchObject([{ id, name: 'first' }])
    expect([desk.id, useSplit().version, desk.regions.map((r) => r.name)]).toEqual(['u', 5, ['other']])
    desk.rename('o', 'changed')
    await expect.poll(() => sent).toHaveLength(3)
    expect(sent[2]).toMatchObject({ id: 'u', patch: { regions: [{ id: 'o', name: 'changed' }] } })
  })
  it('does not take over an older split while its own is on the way', () => {
    const desk = laid()
    desk.makeRegion()
    desk.lay(timeline({ regions: [], markers: [] }, 1))
    expect(desk.regions).toHaveLength(1)
  })
})
