import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useWorld } from './world'

// What the stations know: asked for at the start, and again when a pulse says that it has moved.

let asked: string[] = []
let topics: Record<string, number>
let answers: Record<string, unknown>
let down = false
/** Milliseconds until a route answers with what it would have answered when it was asked. */
let delays: Record<string, number>

beforeEach(() => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  const kept = new Map<string, string>()
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
  })
  vi.stubGlobal('document', { hidden: false })
  asked = []
  topics = { timelines: 1, split: 1, outlets: 1, facts: 1, run: 1 }
  down = false
  delays = {}
  answers = {
    timelines: [
      { id: 'a', name: 'A' },
      { id: 'b', name: 'B' },
    ],
    outlets: { outlets: [], recipes: [], specs: [], choices: [], abilities: null, workers: [] },
    runs: [],
    handover: [],
    deliverables: [
      { timelineId: 'a', verdict: 'pass' },
      { timelineId: 'b', verdict: 'fail' },
      { timelineId: 'a', verdict: 'caution' },
    ],
  }
  vi.stubGlobal('fetch', async (url: string, o: { method: string }) => {
    if (down) throw new TypeError('refused')
    const route = url.replace('/api/', '')
    asked.push(`${o.method === 'GET' ? '' : `${o.method} `}${route}`)
    const answer =
      route === 'pulse'
        ? { topics: { ...topics }, background: [], run: null }
        : answers[o.method === 'GET' ? route : `${o.method} ${route}`]
    if (delays[route]) await new Promise((r) => setTimeout(r, delays[route]))
    const error = (answer as { error?: unknown } | undefined)?.error
    return { ok: !error, status: error ? 400 : 200, json: async () => answer }
  })
})
afterEach(() => vi.useRealTimers())

async function started() {
  const world = useWorld()
  void world.start()
  await vi.advanceTimersByTimeAsync(10)
  asked = []
  return world
}
const tick = async () => {
  await vi.advanceTimersByTimeAsync(1000)
  return asked.splice(0)
}

describe('keeping up', () => {
  it('asks for everything once, then only for the pulse', async () => {
    const world = await started()
    expect([world.loaded, world.timeline?.id, world.deliverables.length]).toEqual([true, 'a', 3])
    expect(await tick()).toEqual(['pulse'])
  })
  it.each<[string, string[]]>([
    ['timelines', ['timelines', 'deliverables']],
    ['facts', ['timelines', 'deliverables']],
    ['split', ['timelines', 'deliverables']],
    ['outlets', ['outlets', 'deliverables']],
    ['run', ['runs', 'handover']],
  ])('asks again for what follows from %s', async (topic, routes) => {
    await started()
    topics[topic]!++
    expect((await tick()).filter((r) => r !== 'pulse').sort()).toEqual([...routes].sort())
    expect(await tick()).toEqual(['pulse'])
  })
  it('says that the server is silent, and goes on when it is back', async () => {
    const world = await started()
    down = true
    await tick()
    expect(world.silent).toBe(true)
    down = false
    topics.facts!++
    expect(await tick()).toContain('deliverables')
    expect(world.silent).toBe(false)
  })
  it('is not ready before everything has been answered', async () => {
    down = true
    const world = await started()
    expect([world.loaded, world.silent]).toEqual([false, true])
    down = false
    await tick()
    expect([world.loaded, world.silent, world.deliverables.length]).toEqual([true, false, 3])
  })
  it('asks again for what was refused, and says why it was', async () => {
    const world = await started()
    const list = answers.deliverables as unknown[]
    answers.deliverables = { error: { code: 'internal.error', message: 'locked' } }
    topics.split!++
    await tick()
    expect([world.silent, world.problems.map((p) => p.message)]).toEqual([false, ['locked']])
    answers.deliverables = list.slice(1)
    expect(await tick()).toContain('deliverables')
    expect(world.deliverables).toHaveLength(2)
    expect(await tick()).toEqual(['pulse'])
  })
  it('never lays an older answer over a newer one', async () => {
    const world = await started()
    const list = answers.deliverables as unknown[]
    delays.deliverables = 500
    const slow = world.loadDeliverables()
    await vi.advanceTimersByTimeAsync(10)
    delays.deliverables = 0
    answers.deliverables = list.slice(2)
    await Promise.all([world.loadDeliverables(), vi.advanceTimersByTimeAsync(5)])
    expect(world.deliverables).toHaveLength(1)
    await Promise.all([slow, vi.advanceTimersByTimeAsync(600)])
    expect(world.deliverables).toHaveLength(1)
  })
  it('has the newest answer whenever one that was asked for has come', async () => {
    const world = await started()
    const before = world.deliverables
    answers.deliverables = []
    delays.deliverables = 100
    let first = before
    void world.loadDeliverables().then(() => (first = world.deliverables))
    await vi.advanceTimersByTimeAsync(10)
    delays.deliverables = 400
    void world.loadDeliverables()
    await vi.advanceTimersByTimeAsync(200)
    expect(first).toBe(before)
    await vi.advanceTimersByTimeAsync(400)
    expect(first).toEqual([])
  })
  it('notices what moves while it is asking', async () => {
    const world = await started()
    delays.deliverables = 300
    topics.outlets!++
    await vi.advanceTimersByTimeAsync(950)
    topics.outlets!++
    answers.deliverables = []
    await tick()
    await tick()
    expect(world.deliverables).toEqual([])
  })
  it('asks less often when nobody looks', async () => {
    await started()
    vi.stubGlobal('document', { hidden: true })
    await tick()
    expect(await tick()).toEqual([])
    await tick()
    expect(await tick()).toEqual(['pulse'])
  })
})

describe('the timeline in hand', () => {
  it('is the one chosen, also after a reload, and another when it is gone', async () => {
    const world = await started()
    world.choose('b')
    expect([world.timeline?.id, world.ofTimeline.map((d) => d.verdict), world.worst, world.failing]).toEqual([
      'b',
      ['fail'],
      'fail',
      1,
    ])
    setActivePinia(createPinia())
    const again = await started()
    expect(again.timeline?.id).toBe('b')
    answers.timelines = [{ id: 'a', name: 'A' }]
    topics.timelines!++
    await tick()
    expect(again.timelineId).toBe('a')
  })
})

describe('problems', () => {
  const problem = (n: number) => ({ code: 'x', message: `problem ${n}` })
  it('are shown once each, the last four, and go by themselves', async () => {
    const world = await started()
    for (let n = 0; n < 6; n++) world.say(problem(n))
    world.say(problem(5))
    expect(world.problems.map((p) => p.message)).toEqual([2, 3, 4, 5].map((n) => `problem ${n}`))
    world.dismiss(world.problems[0]!.key)
    expect(world.problems).toHaveLength(3)
    await vi.advanceTimersByTimeAsync(12_100)
    expect(world.problems).toEqual([])
  })
  it('of an action are shown; one that went well shows none, and what follows from it is asked for', async () => {
    const world = await started()
    answers['POST deliverables'] = { error: { code: 'cell.unknown', message: 'gone', fix: 'Choose another.' } }
    expect(await world.setChosen([], true)).toBe(false)
    expect(world.problems.map((p) => [p.code, p.fix])).toEqual([['cell.unknown', 'Choose another.']])
    answers['POST deliverables'] = { done: true }
    asked = []
    expect(await world.setChosen([], true)).toBe(true)
    expect(asked).toEqual(['POST deliverables', 'outlets', 'deliverables'])
  })
  it('of a server that is not there say so in words', async () => {
    const world = await started()
    down = true
    expect(await world.saveOutlet({} as never)).toBe(false)
    expect(world.problems[0]).toMatchObject({ code: 'server.silent', message: 'The server does not answer.' })
  })
})
