import { copyFileSync, mkdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { makeRate } from '../../core/time/rate'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed } from '../../core/timeline/model'
import { reelEdl, type ReelPlan } from '../../demo/reel'
import { drain, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import type { SplitTimeline } from '../../core/split/timeline'
import { versionOf } from './naming'

// Bringing in, versions, lists that do not fit, and media that changes afterwards.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
let plan: ReelPlan
const at = (file: string) => ({ root: 'storage', path: file })
const put = (name: string, text: string) => writeFileSync(path.join(storage, name), text)

beforeAll(async () => {
  mkdirSync(path.join(storage, 'Tides'), { recursive: true })
  plan = await smallReel(path.join(storage, 'Tides', 'reel.mov'))
  put('Tides/reel.edl', reelEdl(plan, 'REEL'))
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})
const refused = (code: string) =>
  expect.objectContaining({ problem: expect.objectContaining({ code }) as unknown }) as unknown

describe('names of versions', () => {
  it.each([
    ['cut', 'cut', 1],
    ['cut v2', 'cut', 2],
    ['cut_v03', 'cut', 3],
    ['Cut-V12', 'Cut', 12],
    ['v2', 'v2', 1],
    ['preview', 'preview', 1],
    ['a v1 v2', 'a v1', 2],
  ] as const)('%s', (name, stem, version) => expect(versionOf(name)).toEqual({ stem, version }))
})

describe('a flattened file with its list', () => {
  let t: SplitTimeline
  it('has the cuts of the list, and is filed under its folder', async () => {
    t = await engine.timelines.bringIn(at('Tides/reel.mov'), { cuts: at('Tides/reel.edl') })
    expect([t.show, t.name, t.model.events.map((e) => e.record.in)]).toEqual(['Tides', 'reel', [0, 50, 90]])
    expect(t.problems).toEqual([])
  })
  it('is refused when it is there already, and a new version when its list is another', async () => {
    await expect(engine.timelines.bringIn(at('Tides/reel.mov'))).rejects.toEqual(refused('timeline.same-name'))
    copyFileSync(path.join(storage, 'Tides', 'reel.mov'), path.join(storage, 'Tides', 'other.mov'))
    await smallReel(path.join(storage, 'Tides', 'other.mov'), {
      shots: [{ scene: 'bell', frames: 60, name: 'bell', reel: 'B' }],
    })
    const second = await engine.timelines.bringIn(at('Tides/other.mov'), { name: 'reel' })
    expect(second.name).toBe('reel v2')
    expect((await engine.timelines.changes(second.id))!.against).toBe('reel')
    expect(await engine.timelines.changes(t.id)).toBeNull()
    await engine.timelines.remove(second.id)
  })
  it('takes no list of another rate, and leaves nothing behind', async () => {
    const rate = makeRate(50)
    const event = {
      track: 'V',
      kind: 'video' as const,
      name: 'a',
      reel: 'A',
      file: null,
      source: { in: 0, out: 100, rate },
      speed: normalSpeed,
      record: { in: 0, out: 100 },
      transition: null,
    }
    put(
      'Tides/fast.otio',
      writeInterchange(
        {
          timeline: {
            name: 'fast',
            rate,
            dropFrame: false,
            start: 0,
            length: 100,
            tracks: [{ name: 'V', kind: 'video' }],
            events: [event],
            markers: [],
          },
        },
        'otio',
      ).text,
    )
    const before = (await engine.timelines.list()).length
    await expect(
      engine.timelines.bringIn(at('Tides/reel.mov'), { cuts: at('Tides/fast.otio'), name: 'fast' }),
    ).rejects.toEqual(refused('timeline.rate'))
    expect((await engine.timelines.list()).length).toBe(before)
  })
  it('reads names of the last century, and says so', async () => {
    const list =
      'TITLE: V\u00E4g\n001 A V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: F\u00E4rja\n'
    writeFileSync(path.join(storage, 'Tides', 'old.edl'), Buffer.from(list, 'latin1'))
    const old = await engine.timelines.bringIn(at('Tides/old.edl'))
    expect([old.model.events[0]!.name, old.problems[0]]).toMatchObject(['F\u00E4rja', { code: 'text.encoding' }])
    await engine.timelines.remove(old.id)
  })
  it('says that a list has no events', async () => {
    put('Tides/empty.edl', 'TITLE: nothing\n')
    await expect(engine.timelines.bringIn(at('Tides/empty.edl'))).rejects.toBeTruthy()
    put('Tides/notes.txt', 'Dear all,\nthe ferry is late.\n')
    await expect(engine.timelines.bringIn(at('Tides/notes.txt'))).rejects.toBeTruthy()
  })
  it('moves its cuts and markers against the pictures, cut off at both ends; regions stay', async () => {
    await engine.timelines.saveSplit(
      t.id,
      { regions: [{ id: 'r', name: 'r', in: 10, out: 20, metadata: {} }], markers: [] },
      t.splitVersion,
    )
    await engine.timelines.setCutsOffset(t.id, 2)
    await engine.timelines.setCutsOffset(t.id, 2)
    const later = await engine.timelines.get(t.id)
    expect(later.model.events.map((e) => [e.record.in, e.record.out])).toEqual([
      [2, 52],
      [52, 92],
      [92, 120],
    ])
    expect(later.split.regions[0]).toMatchObject({ in: 10, out: 20 })
    await engine.timelines.setCutsOffset(t.id, -2)
    expect((await engine.timelines.get(t.id)).model.events.map((e) => [e.record.in, e.record.out])).toEqual([
      [0, 48],
      [48, 88],
      [88, 116],
    ])
  })
  it('keeps a split only on top of the one it was made from', async () => {
    const now = await engine.timelines.get(t.id)
    const next = await engine.timelines.saveSplit(t.id, { regions: [], markers: [] }, now.splitVersion)
    expect(next).toBe(now.splitVersion + 1)
    await expect(engine.timelines.saveSplit(t.id, { regions: [], markers: [] }, now.splitVersion)).rejects.toEqual(
      refused('split.moved-on'),
    )
  })
  it('cannot be relinked', async () => {
    await expect(engine.timelines.relink(t.id)).rejects.toEqual(refused('timeline.flattened'))
    await expect(engine.timelines.relink('nobody')).rejects.toEqual(refused('timeline.unknown'))
  })
  it('is said to be gone, replaced, or there again', async () => {
    const file = path.join(storage, 'Tides', 'reel.mov')
    copyFileSync(file, `${file}.kept`)
    expect(await engine.timelines.mediaProblem(t)).toBeNull()
    truncateSync(file, 1000)
    expect(await engine.timelines.mediaProblem(t)).toMatchObject({ code: 'media.replaced', where: 'Tides/reel.mov' })
    rmSync(file)
    expect((await engine.timelines.mediaProblem(t))!.where).toBe('Tides/reel.mov')
    copyFileSync(`${file}.kept`, file)
    // another date alone is no other file
    expect(await engine.timelines.mediaProblem(t)).toBeNull()
  })
})

describe('a list of sources', () => {
  const list = (name: string, last: string) =>
    put(
      name,
      'TITLE: trailer\nFCM: NON-DROP FRAME\n001 REEL V C 10:00:59:00 10:01:00:00 01:00:00:00 01:00:01:00\n' +
        `002 REEL V C ${last} 01:00:01:00 01:00:02:00\n003 LOST V C 02:00:00:00 02:00:01:00 01:00:02:00 01:00:03:00\n`,
    )
  let t: SplitTimeline
  it('is linked by what names its sources, and says what is missing and what was looked for', async () => {
    list('Tides/trailer.edl', '10:01:02:00 10:01:03:00')
    t = await engine.timelines.bringIn(at('Tides/trailer.edl'))
    expect(t.linking!.sources.map((s) => [s.reel, s.state])).toEqual([
      ['REEL', 'linked'],
      ['LOST', 'missing'],
    ])
    expect(t.linking!.sources[1]!.problem!.message).toContain('LOST')
    expect([t.model.length, t.info.video[0]!.width]).toEqual([75, 640])
  })
  it('does not take cuts of another list, and chapters only once', async () => {
    await expect(engine.timelines.attachCuts(t.id, at('Tides/reel.edl'))).rejects.toEqual(
      refused('timeline.many-sources'),
    )
    await expect(engine.timelines.setCutsOffset(t.id, 1)).rejects.toEqual(refused('timeline.many-sources'))
    put('Tides/ch.vtt', 'WEBVTT\n\n00:00:00.000 --> 00:00:01.000\nOne\n\n00:00:01.000 --> 00:00:03.000\nTwo\n')
    for (let i = 0; i < 2; i++) await engine.timelines.attachCuts(t.id, at('Tides/ch.vtt'))
    expect((await engine.timelines.get(t.id)).split.markers.map((m) => [m.at, m.name])).toEqual([
      [0, 'One'],
      [25, 'Two'],
    ])
  })
  it('is known by its links: the same list is refused, a changed one is the next version', async () => {
    await expect(engine.timelines.bringIn(at('Tides/trailer.edl'))).rejects.toEqual(refused('timeline.same-name'))
    list('Tides/trailer.edl', '10:01:02:05 10:01:03:05')
    const next = await engine.timelines.bringIn(at('Tides/trailer.edl'))
    expect(next.name).toBe('trailer v2')
    const { against, changes } = (await engine.timelines.changes(next.id))!
    expect(against).toBe('trailer')
    expect(changes.map((c) => c.kind)).toEqual(['kept', 'trimmed', 'kept'])
    await engine.timelines.remove(next.id)
  })
  it('finds what came back when it looks again, and looks at that only', async () => {
    await drain(engine)
    const lost = await smallReel(path.join(storage, 'Tides', 'LOST.mov'), {
      start: 180_000,
      shots: [{ scene: 'fog', frames: 40, name: 'f', reel: 'LOST' }],
    })
    expect(lost.start).toBe(180_000)
    const linked = await engine.timelines.relink(t.id)
    expect(linked.linking!.sources.map((s) => s.state)).toEqual(['linked', 'linked'])
    expect(linked.fingerprint.content).not.toBe(t.fingerprint.content)
    expect((await engine.viewing.analysis(linked)).progress).toBeLessThan(1)
    await drain(engine)
    const { pictures, progress } = await engine.viewing.analysis(linked)
    expect([progress, pictures!.black]).toEqual([1, []])
  })
  it('shows sources that are gone or replaced since', async () => {
    const now = await engine.timelines.get(t.id)
    rmSync(path.join(storage, 'Tides', 'LOST.mov'))
    expect((await engine.timelines.sources(now)).map((s) => s.state)).toEqual(['linked', 'missing'])
    await smallReel(path.join(storage, 'Tides', 'LOST.mov'), {
      start: 180_000,
      shots: [{ scene: 'bell', frames: 40, name: 'f', reel: 'LOST' }],
    })
    expect((await engine.timelines.sources(now)).map((s) => s.state)).toEqual(['linked', 'replaced'])
  })
})

describe('the clock of a timeline', () => {
  const list = (out: string) =>
    `TITLE: week\n001 REEL V C 10:00:59:00 10:01:01:00 01:00:00:00 01:00:02:00\n` +
    `002 REEL V C 10:01:01:00 10:01:01:${out} 01:00:02:00 01:00:02:${out}\n`
  let t: SplitTimeline
  it('is that of its media, but for a rate that has no such labels', async () => {
    const rate = makeRate(24)
    await smallReel(path.join(storage, 'Tides', 'SLOW.mov'), { rate })
    put('Tides/slow.edl', list('24').replaceAll('REEL', 'SLOW'))
    const slow = await engine.timelines.bringIn(at('Tides/slow.edl'))
    expect([slow.model.rate, slow.model.events.length]).toEqual([makeRate(25), 2])
    expect(slow.linking!.sources[0]).toMatchObject({ state: 'rate' })
    put('Tides/slower.edl', list('20').replaceAll('REEL', 'SLOW'))
    expect((await engine.timelines.bringIn(at('Tides/slower.edl'))).model.rate).toEqual(rate)
  })
  it('is set by a person: regions of a list keep their labels', async () => {
    put('Tides/week.edl', list('20'))
    t = await engine.timelines.bringIn(at('Tides/week.edl'))
    expect(t.model.rate).toEqual(makeRate(25))
    const split = {
      regions: [{ id: 'r', name: 'r', in: 25, out: 50, metadata: {}, looked: { in: 25, out: 50 } }],
      markers: [{ id: 'm', at: 49, name: 'm' }],
    }
    await engine.timelines.saveSplit(t.id, split, t.splitVersion)
    await engine.timelines.setRate(t.id, makeRate(24))
    const now = await engine.timelines.get(t.id)
    expect([now.model.rate, now.model.length, now.model.events[1]!.record]).toEqual([
      makeRate(24),
      68,
      { in: 48, out: 68 },
    ])
    // 01:00:01:24 is not there at 24: the last frame of its second is
    expect(now.split).toMatchObject({ regions: [{ in: 24, out: 48 }], markers: [{ at: 47 }] })
    expect(now.split.regions[0]!.looked).toBeUndefined()
    expect(now.linking!.sources[0]).toMatchObject({ state: 'rate' })
  })
  it('is refused where labels would be lost, and where the media or the list says it', async () => {
    put('Tides/full.edl', list('24'))
    const full = await engine.timelines.bringIn(at('Tides/full.edl'))
    await expect(engine.timelines.setRate(full.id, makeRate(24))).rejects.toEqual(refused('timeline.labels'))
    await expect(engine.timelines.setRate(full.id, makeRate(7))).rejects.toEqual(refused('timeline.rate'))
    put('Tides/said.csv', writeInterchange({ timeline: full.model }, 'csv').text)
    const said = await engine.timelines.bringIn(at('Tides/said.csv'))
    await expect(engine.timelines.setRate(said.id, makeRate(30))).rejects.toEqual(refused('timeline.own-rate'))
  })
  it('begins where a person says, and everything stays at its frame', async () => {
    await engine.timelines.setStart(t.id, '10:00:00:00')
    const now = await engine.timelines.get(t.id)
    expect([now.model.start, now.model.length, now.split.regions[0]!.in]).toEqual([864_000, 68, 24])
    // what is assembled of it says the same
    expect([now.info.timecode!.start, now.linking!.assembly.timeline.start]).toEqual(['10:00:00:00', 864_000])
    await expect(engine.timelines.setStart(t.id, '10:00:00:24')).rejects.toEqual(refused('timeline.start'))
    await expect(engine.timelines.setStart(t.id, 'noon')).rejects.toEqual(refused('timeline.start'))
  })
})

describe('a rate that is set after a start was', () => {
  it('keeps the start, and regions at the labels of the list', async () => {
    put('Tides/both.edl', 'TITLE: both\n001 REEL V C 10:00:59:00 10:01:02:00 01:00:00:00 01:00:03:00\n')
    const t = await engine.timelines.bringIn(at('Tides/both.edl'))
    const regions = [{ id: 'r', name: 'r', in: 25, out: 50, metadata: {} }]
    await engine.timelines.saveSplit(t.id, { regions, markers: [] }, t.splitVersion)
    await engine.timelines.setStart(t.id, '10:00:00:00')
    await engine.timelines.setRate(t.id, makeRate(24))
    const now = await engine.timelines.get(t.id)
    expect([now.model.start, now.model.length]).toEqual([864_000, 72])
    expect(now.split.regions[0]).toMatchObject({ in: 24, out: 48 })
  })
})

describe('what is no version of what has its name', () => {
  it('is told apart by its extension: a list beside a file, another rate', async () => {
    await smallReel(path.join(storage, 'Tides', 'pier.mov'))
    put('Tides/pier.edl', reelEdl(plan, 'PIER'))
    const file = await engine.timelines.bringIn(at('Tides/pier.mov'))
    const list = await engine.timelines.bringIn(at('Tides/pier.edl'))
    expect([file.name, list.name, await engine.timelines.changes(list.id)]).toEqual(['pier', 'pier.edl', null])
    mkdirSync(path.join(storage, 'Tides', 'fast'), { recursive: true })
    await smallReel(path.join(storage, 'Tides', 'fast', 'pier.mov'), { rate: makeRate(50) })
    const fast = await engine.timelines.bringIn(at('Tides/fast/pier.mov'), { show: 'Tides' })
    expect([fast.name, await engine.timelines.changes(fast.id)]).toEqual(['pier.mov', null])
  })
})
