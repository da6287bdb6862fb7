import { mkdirSync, truncateSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { contentMeters, pictureMeters } from '../../../core/analysis/pictures'
import { tracer } from '../../../core/analysis/trace'
import { luma709 } from '../../../core/media/colour'
import type { Picture } from '../../../core/picture/picture'
import { writeInterchange } from '../../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../../core/timeline/model'
import { makeRate } from '../../../core/time/rate'
import { drain, outlet, recipe, scratchFolder, smallReel, testEngine, deliverables } from '../../../tests/fixtures'
import { machineCodecs } from '../codecs'
import { Session } from '../../session'
import { factKeys, readFacts } from '../../store/facts'
import { frameKept, previewWidth, readPreview } from '../../storage/framestore'
import { openSource } from '../sources/source'
import { jpegOf } from '../stills'
import type { RegionSound } from '../../../core/analysis/soundstretches'
import type { SplitTimeline } from '../../../core/split/timeline'
import { sourceOf } from '../../timelines/timelines'

// What was seen and heard once is known wherever it is used: in regions, in timelines cut from the same files, in their
// next versions.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const rate = makeRate(30000, 1001)
let engine: Session
let starts: Record<'A' | 'B', number>

const event = (
  from: number,
  to: number,
  card: 'A' | 'B',
  first: number,
  more: Partial<TimelineEvent> = {},
): TimelineEvent => ({
  track: 'V',
  kind: 'video',
  name: `shot ${from}`,
  reel: `CARD_${card}`,
  file: null,
  source: { in: starts[card] + first, out: starts[card] + first + to - from, rate, dropFrame: false },
  speed: normalSpeed,
  record: { in: from, out: to },
  transition: null,
  ...more,
})
const events = () => [
  event(0, 30, 'A', 10),
  event(30, 60, 'B', 20, { transition: { kind: 'dissolve', frames: 6 } }),
  event(60, 80, 'A', 70),
  ...['A1', 'A2'].map((track, c) => event(0, 80, 'A', 10, { track, kind: 'audio', channels: [c] })),
]
function write(name: string, list: TimelineEvent[]): void {
  const timeline: Timeline = {
    name,
    rate,
    dropFrame: false,
    start: 0,
    length: 80,
    markers: [],
    tracks: [
      { name: 'V', kind: 'video' },
      { name: 'A1', kind: 'audio' },
      { name: 'A2', kind: 'audio' },
    ],
    events: list,
  }
  writeFileSync(path.join(storage, name), writeInterchange({ timeline }, 'otio').text)
}

beforeAll(async () => {
  mkdirSync(path.join(storage, 'cards'), { recursive: true })
  const a = await smallReel(path.join(storage, 'cards', 'CARD_A.mov'), { rate, dropFrame: false })
  const b = await smallReel(path.join(storage, 'cards', 'CARD_B.mov'), {
    rate,
    dropFrame: false,
    start: 9000,
    shots: [
      { scene: 'gannets', frames: 40, name: 'b', reel: 'B' },
      { scene: 'black', frames: 12, name: 'k', reel: 'B' },
      { scene: 'fog', frames: 68, name: 'f', reel: 'B' },
    ],
  })
  starts = { A: a.start, B: b.start }
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

const contents = (t: SplitTimeline) => t.linking!.assembly.sources.map((s) => s.fingerprint.content)
async function kept(content: string, frames: number): Promise<number[]> {
  const out: number[] = []
  for (let frame = 0; frame < frames; frame++)
    if (await frameKept(engine.folders.cache, { content, frame })) out.push(frame)
  return out
}
async function picturesOf(t: SplitTimeline, e = engine): Promise<Picture[]> {
  const source = await openSource(e.roots, machineCodecs(), sourceOf(t))
  const out: Picture[] = []
  for await (const { picture } of source.pictures().read({ in: 0, out: t.model.length })) out.push(picture)
  await source.close()
  return out
}
const span = (from: number, n: number) => Array.from({ length: n }, (_, i) => from + i)

describe('frames', () => {
  let list: SplitTimeline
  it('of a list are kept by the file they come from; what is made in it, by the list', async () => {
    write('cut.otio', events())
    list = await engine.timelines.bringIn({ root: 'storage', path: 'cut.otio' })
    await drain(engine)
    const [a, b] = contents(list)
    expect(await kept(a!, 120)).toEqual([...span(10, 30), ...span(70, 20)])
    expect(await kept(b!, 120)).toEqual(span(26, 24))
    expect(await kept(list.fingerprint.content, 80)).toEqual(span(30, 6))
  })
  it('of a list have no file of their own to be played from', async () => {
    await expect(engine.viewing.media(list)).rejects.toMatchObject({ problem: { code: 'timeline.assembled' } })
  })
  it('say of the list what looking at its own pictures says', async () => {
    const meters = pictureMeters({ rate, width: 640, height: 360, colour: null })
    const pictures = await picturesOf(list)
    const { take } = tracer()
    for (const p of pictures) meters.feed(take(p))
    const { pictures: facts } = await engine.viewing.analysis(list)
    expect(facts).toEqual(JSON.parse(JSON.stringify(meters.result())))
    expect(facts!.black.length).toBeGreaterThan(0)
    for (const n of [0, 29, 33, 36, 79])
      expect(await engine.viewing.picture(list, n, previewWidth)).toEqual(
        await jpegOf(pictures[n]!, previewWidth, luma709),
      )
  })
  it('are known when their file comes by itself: only the rest is looked at', async () => {
    const b = contents(list)[1]!
    const before = await readPreview(engine.folders.cache, { content: b, frame: 30 })
    const card = await engine.timelines.bringIn({ root: 'storage', path: 'cards/CARD_B.mov' })
    expect(card.fingerprint.content).toBe(b)
    await drain(engine)
    expect(await kept(b, 120)).toEqual(span(0, 120))
    expect(await readPreview(engine.folders.cache, { content: b, frame: 30 })).toEqual(before)
    const meters = pictureMeters({ rate, width: 640, height: 360, colour: null })
    const { take } = tracer()
    for (const p of await picturesOf(card)) meters.feed(take(p))
    expect((await engine.viewing.analysis(card)).pictures).toEqual(JSON.parse(JSON.stringify(meters.result())))
  })
  it('of the next version are known but for what is new in it', async () => {
    const [first, second, ...rest] = events()
    write('cut v2.otio', [event(0, 30, 'A', 12), second!, ...rest])
    const next = await engine.timelines.bringIn({ root: 'storage', path: 'cut v2.otio' })
    await drain(engine)
    expect(first!.source!.in).toBe(starts.A + 10)
    // A: two more at the end of the first shot, and nothing else; the dissolve is made anew
    expect(await kept(contents(next)[0]!, 120)).toEqual([...span(10, 32), ...span(70, 20)])
    expect(await kept(next.fingerprint.content, 80)).toEqual(span(30, 6))
  })
  it('that were cleared from the cache are looked at again when a region asks for them', async () => {
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'cards/CARD_A.mov' })
    await drain(engine)
    await engine.outlets.save(outlet('master', 'storage', recipe('master')))
    truncateSync(path.join(engine.folders.cache, `${t.fingerprint.content}.frames-4`))
    await engine.timelines.saveSplit(
      t.id,
      { regions: [{ id: 'r', name: 'R', in: 20, out: 70, metadata: {} }], markers: [] },
      t.splitVersion,
    )
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'master' }], true)
    await deliverables(engine)
    await drain(engine)
    expect((await deliverables(engine))[0]!.pending).toBe(false)
    await engine.timelines.remove(t.id)
  })
})

describe('a region', () => {
  const ranges = [
    { in: 0, out: 80 },
    { in: 3, out: 41 },
    { in: 33, out: 34 },
    { in: 40, out: 77 },
  ]
  const routes = [[0, 1], [1], [1, -1]]
  /** Regions of a timeline with their facts, by an engine. */
  async function factsOf(e: Session, t: SplitTimeline) {
    await e.timelines.saveSplit(
      t.id,
      { regions: ranges.map((r, i) => ({ id: `r${i}`, name: `R${i}`, ...r, metadata: {} })), markers: [] },
      t.splitVersion,
    )
    for (const [i, route] of routes.entries()) {
      await e.outlets.save(outlet(`o${i}`, 'storage', recipe('master', { channels: route.map((c) => c + 1) })))
      await e.outlets.choose(
        ranges.map((_, k) => ({ timelineId: t.id, regionId: `r${k}`, outletId: `o${i}` })),
        true,
      )
    }
    await e.nights.judged()
    await drain(e)
    await e.nights.judged()
    await drain(e)
    const sounds = ranges.flatMap((r) => routes.map((route) => factKeys.regionSound(t.fingerprint, [r], { route })))
    const known = await readFacts(e.db, [...sounds, ...ranges.map((r) => factKeys.regionPictures(t.fingerprint, [r]))])
    return {
      sounds: sounds.map((k) => known.get(k) as RegionSound),
      pictures: ranges.map((r) => known.get(factKeys.regionPictures(t.fingerprint, [r]))),
    }
  }
  it('is read from the pass as it is measured alone, sound and pictures', async () => {
    const t = (await engine.timelines.list()).find((x) => x.name === 'cut')!
    const read = await factsOf(engine, t)
    expect(read.sounds.every(Boolean)).toBe(true)

    const alone = await Session.open({
      data: path.join(folder, 'alone'),
      roots: [{ name: 'storage', path: storage }],
      workers: 0,
      analyse: false,
    })
    const measured = await factsOf(alone, await alone.timelines.bringIn({ root: 'storage', path: 'cut.otio' }))
    await alone.close()
    read.sounds.forEach((s, i) => {
      const m = measured.sounds[i]!
      expect([s.truePeak, s.peaks, s.faults]).toEqual([m.truePeak, m.peaks, m.faults])
      for (const k of ['integrated', 'range', 'momentaryMax', 'shortTermMax'] as const)
        expect(s[k] ?? -1000).toBeCloseTo(m[k] ?? -1000, 4)
      s.pairs.forEach((p, k) => expect(p.correlation ?? -9).toBeCloseTo(m.pairs[k]!.correlation ?? -9, 4))
    })

    const pictures = await picturesOf(t)
    const { take } = tracer()
    const traces = pictures.map((p) => take(p))
    ranges.forEach((r, i) => {
      const meters = contentMeters({ rate, width: 640, height: 360, colour: null })
      for (const t of traces.slice(r.in, r.out)) meters.feed(t)
      expect(read.pictures[i]).toEqual(JSON.parse(JSON.stringify({ ...meters.result(), head: null })))
    })
  })
})
