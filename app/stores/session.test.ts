import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { DeliverableSummary } from '../../contract/deliverables'
import type { LiveEvent } from '../../contract/live'
import { useDeliverables } from './deliverables'
import { useRuns } from './runs'
import { useProblems } from './problems'
import { useSession } from './session'
import { useShelf } from './shelf'
import { useTimelines } from './timelines'

// What the page knows: asked for when the line is there, and told from then on.

let asked: string[] = []
let answers: Record<string, unknown>
let down = false
/** Milliseconds until a route answers with what it would have answered when it was asked. */
let delays: Record<string, number>
let lines: Line[]

/** A line to the server that the test speaks into. */
class Line {
  static readonly CLOSED = 2
  readyState = 1
  onmessage: ((e: { data: string }) => void) | null = null
  onerror: (() => void) | null = null
  constructor(readonly url: string) {
    lines.push(this)
  }
  tell(event: LiveEvent) {
    this.onmessage?.({ data: JSON.stringify(event) })
  }
}

const summary = (timelineId: string, verdict: DeliverableSummary['verdict'], regionId: string = verdict) =>
  ({ timelineId, regionId, outletId: 'o', verdict }) as DeliverableSummary
const timeline = (id: string, splitVersion = 1) => ({
  id,
  name: id.toUpperCase(),
  splitVersion,
  split: { regions: [], markers: [] },
  info: { audio: [] },
  analysis: { pictures: null, sound: null, progress: 0 },
})

beforeEach(() => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  const kept = new Map<string, string>()
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
  })
  vi.stubGlobal('EventSource', Line)
  asked = []
  lines = []
  down = false
  delays = {}
  answers = {
    timelines: [timeline('a'), timeline('b')],
    'timelines/a': { ...timeline('a'), name: 'A again' },
    outlets: { outlets: [], recipes: [], specs: [], abilities: { decodes: [], encodes: [] }, workers: [] },
    runs: [],
    handover: [],
    deliverables: { revision: 3, list: [summary('a', 'pass'), summary('b', 'fail'), summary('a', 'caution')] },
  }
  vi.stubGlobal('fetch', async (url: string, o: { method: string }) => {
    if (down) throw new TypeError('refused')
    const route = url.replace('/api/', '')
    const name = o.method === 'GET' ? route : `${o.method} ${route}`
    asked.push(name)
    const answer = answers[name]
    if (delays[route]) await new Promise((r) => setTimeout(r, delays[route]))
    const error = (answer as { error?: unknown } | undefined)?.error
    return { ok: !error, status: error ? 400 : 200, json: async () => answer }
  })
})
afterEach(() => vi.useRealTimers())

async function started() {
  const session = useSession()
  session.start()
  lines[0]!.tell({ type: 'hello' })
  await vi.advanceTimersByTimeAsync(10)
  return session
}
/** Tells something; gives what the page asked for because of it. */
async function told(event: LiveEvent) {
  asked = []
  lines.at(-1)!.tell(event)
  await vi.advanceTimersByTimeAsync(10)
  return asked.splice(0)
}

describe('keeping up', () => {
  it('asks for everything once the line is there, and for nothing after that', async () => {
    const session = await started()
    expect(asked.sort()).toEqual(['deliverables', 'handover', 'outlets', 'runs', 'timelines'])
    expect([session.loaded, useTimelines().current?.id, useDeliverables().all.length]).toEqual([true, 'a', 3])
    asked = []
    await vi.advanceTimersByTimeAsync(60_000)
    expect(asked).toEqual([])
  })
  it('takes deliverables as they are told, without asking', async () => {
    await started()
    const changed = [summary('a', 'fail', 'caution'), summary('b', 'pass', 'new')]
    expect(await told({ type: 'deliverables', revision: 4, changed, removed: ['a/pass/o'] })).toEqual([])
    const { all, failing, ofTimeline } = useDeliverables()
    expect(all.map((d) => [d.timelineId, d.regionId, d.verdict])).toEqual([
      ['b', 'fail', 'fail'],
      ['a', 'caution', 'fail'],
      ['b', 'new', 'pass'],
    ])
    expect([failing, ofTimeline.length]).toEqual([2, 1])
    // an answer that was on its way tells an older state
    await useDeliverables().load()
    expect(useDeliverables().all).toHaveLength(3)
    expect(useDeliverables().failing).toBe(2)
  })
  it('believes a server that was started again, whose revisions begin anew', async () => {
    await started()
    await told({ type: 'deliverables', revision: 900, changed: [summary('a', 'fail', 'late')], removed: [] })
    answers.deliverables = { revision: 1, list: [summary('a', 'pass')] }
    await told({ type: 'hello' })
    expect(useDeliverables().all.map((d) => d.verdict)).toEqual(['pass'])
    await told({ type: 'deliverables', revision: 2, changed: [summary('a', 'caution')], removed: ['a/pass/o'] })
    expect(useDeliverables().all.map((d) => d.verdict)).toEqual(['caution'])
  })
  it('lays what is told before the list has come over it, and only what is newer', async () => {
    const session = useSession()
    delays.deliverables = 50
    answers.deliverables = { revision: 3, list: [summary('a', 'pass')] }
    session.start()
    lines[0]!.tell({ type: 'hello' })
    await vi.advanceTimersByTimeAsync(10)
    lines[0]!.tell({ type: 'deliverables', revision: 3, changed: [summary('b', 'fail')], removed: [] })
    lines[0]!.tell({ type: 'deliverables', revision: 4, changed: [summary('a', 'fail')], removed: [] })
    expect(useDeliverables().all).toEqual([])
    await vi.advanceTimersByTimeAsync(100)
    expect(useDeliverables().all.map((d) => [d.timelineId, d.verdict])).toEqual([
      ['a', 'pass'],
      ['a', 'fail'],
    ])
  })
  it('takes what changed of a split, and nothing older', async () => {
    await started()
    const region = { id: 'r', name: 'Fog Bell', in: 0, out: 9, metadata: {} }
    const patch = { regions: [region], markers: [], removed: [] }
    expect(await told({ type: 'split', id: 'a', version: 2, patch })).toEqual([])
    expect(useTimelines().current!.split.regions).toEqual([region])
    await told({ type: 'split', id: 'a', version: 2, patch: { ...patch, regions: [], removed: ['r'] } })
    expect(useTimelines().current!.split.regions).toHaveLength(1)
  })
  it.each<[LiveEvent, string[]]>([
    [{ type: 'timelines', ids: ['a'] }, ['timelines/a']],
    [{ type: 'timelines', ids: ['c'] }, ['timelines']],
    [{ type: 'shelf' }, ['outlets']],
    [{ type: 'runs' }, ['runs']],
    [{ type: 'background', work: [] }, []],
  ])('asks again only for what %j names', async (event, routes) => {
    await started()
    expect(await told(event)).toEqual(routes)
  })
  it('lays what moved over the run that is shown', async () => {
    answers.runs = [{ id: 'n', name: 'Night', state: 'running', created: '', done: 0, total: 2 }]
    const item = (id: string, state: string) => ({ id, state })
    answers['runs/n'] = {
      id: 'n',
      name: 'Night',
      state: 'running',
      items: [item('x', 'running'), item('y', 'waiting')],
    }
    await started()
    const pulse = {
      id: 'n',
      state: 'running',
      workers: 2,
      finished: null,
      lanes: [],
      framesPerSecond: 9,
      secondsLeft: 4,
    }
    await told({ type: 'run', ...pulse, items: [item('x', 'done')] } as never)
    expect(useRuns().current).toMatchObject({ name: 'Night', workers: 2, secondsLeft: 4 })
    expect(useRuns().current!.items.map((i) => i.state)).toEqual(['done', 'waiting'])
    await told({ type: 'run', ...pulse, id: 'other', secondsLeft: 99, items: [] } as never)
    expect(useRuns().current!.secondsLeft).toBe(4)
    const file = { id: 'x', path: 'x.mov', verdict: 'pass' }
    await told({ type: 'handover', finished: [file as never] })
    await told({ type: 'handover', finished: [file as never] })
    expect(useRuns().finished.map((f) => f.id)).toEqual(['x'])
  })
  it('shows the run that goes on, and the newest where none does', async () => {
    const run = (id: string, state: string) => ({ id, name: id, state, created: '', done: 0, total: 1 })
    const runs = [run('c', 'paused'), run('b', 'running'), run('a', 'running'), run('z', 'done')]
    for (const r of runs) answers[`runs/${r.id}`] = { ...r, items: [] }
    answers.runs = runs
    await started()
    expect(useRuns().current!.id).toBe('a')
    await useRuns().open('b')
    answers.runs = [runs[0], { ...runs[1], state: 'done' }, { ...runs[2], state: 'done' }, runs[3]]
    answers['runs/b'] = { ...runs[1], state: 'done', items: [] }
    await told({ type: 'runs' })
    expect([useRuns().current!.id, useRuns().opened!.state]).toEqual(['c', 'done'])
    answers.runs = [runs[0]]
    await useRuns().open('c')
    await told({ type: 'runs' })
    expect([useRuns().current!.id, useRuns().opened]).toEqual(['c', null])
  })
  it('says that the server is silent, and asks for everything when it is back', async () => {
    const session = await started()
    lines[0]!.onerror!()
    expect(session.silent).toBe(true)
    expect(await told({ type: 'hello' })).toContain('deliverables')
    expect(session.silent).toBe(false)
  })
  it('listens anew when the browser has given the line up', async () => {
    await started()
    lines[0]!.readyState = Line.CLOSED
    lines[0]!.onerror!()
    await vi.advanceTimersByTimeAsync(1100)
    expect(lines).toHaveLength(2)
  })
  it('is not ready before everything has been answered, and asks again for what was refused', async () => {
    answers.deliverables = { error: { code: 'internal.error', message: 'locked' } }
    const session = await started()
    expect([session.loaded, useProblems().all.map((p) => p.message)]).toEqual([false, ['locked']])
    answers.deliverables = { revision: 3, list: [] }
    await vi.advanceTimersByTimeAsync(1100)
    expect(session.loaded).toBe(true)
  })
  it('never lays an older answer over a newer one', async () => {
    await started()
    delays.outlets = 500
    const slow = useShelf().load()
    await vi.advanceTimersByTimeAsync(10)
    delays.outlets = 0
    answers.outlets = { outlets: [{ id: 'new' }], recipes: [], specs: [], workers: [] }
    await Promise.all([useShelf().load(), vi.advanceTimersByTimeAsync(5)])
    await Promise.all([slow, vi.advanceTimersByTimeAsync(600)])
    expect(useShelf().outlets.map((o) => o.id)).toEqual(['new'])
  })
})

describe('the timeline in hand', () => {
  it('is the one chosen last, also after a reload; the first one when that is gone', async () => {
    await started()
    useTimelines().choose('b')
    setActivePinia(createPinia())
    lines = []
    await started()
    expect(useTimelines().current?.id).toBe('b')
    answers.timelines = [timeline('c')]
    await told({ type: 'timelines', ids: ['b', 'c'] })
    expect(useTimelines().current?.id).toBe('c')
  })
})

describe('problems', () => {
  it('are shown once each, a few at a time, and go by themselves', async () => {
    await started()
    for (let n = 0; n < 6; n++) useProblems().say({ code: 'x', message: `problem ${n}` })
    useProblems().say({ code: 'x', message: 'problem 5' })
    expect(useProblems().all.map((p) => p.message)).toEqual([2, 3, 4, 5].map((n) => `problem ${n}`))
    useProblems().dismiss(useProblems().all[0]!.key)
    expect(useProblems().all).toHaveLength(3)
    await vi.advanceTimersByTimeAsync(12_100)
    expect(useProblems().all).toEqual([])
  })
  it('of an action are shown; what went well changes what it says and nothing else', async () => {
    await started()
    answers['POST deliverables'] = { error: { code: 'gone', message: 'gone', fix: 'Choose another.' } }
    expect(await useDeliverables().setChosen([], true)).toBe(false)
    expect(useProblems().all.map((p) => [p.code, p.fix])).toEqual([['gone', 'Choose another.']])
    answers['POST deliverables'] = { revision: 4, changed: [summary('a', 'fail', 'x')], removed: [] }
    asked = []
    expect(await useDeliverables().setChosen([], true)).toBe(true)
    expect([asked, useDeliverables().all.length]).toEqual([['POST deliverables'], 4])
  })
  it('of a server that is not there say so in words', async () => {
    await started()
    down = true
    expect(await useProblems().attempt(() => useShelf().load())).toBe(false)
    expect(useProblems().all.map((p) => p.code)).toEqual(['server.silent'])
  })
})
