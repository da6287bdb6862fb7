import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import type { Picture } from '../../core/picture/picture'
import { lookAt } from '../../core/split/edit'
import { isLookedAt } from '../../core/split/region'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../core/timeline/model'
import { sampleAtFrame } from '../../core/time/samples'
import { readCounter, type ReelPlan } from '../../demo/reel'
import { drain, outlet, rates, recipe, scratchFolder, smallReel, testEngine, deliverables } from '../../tests/fixtures'
import { machineCodecs } from '../worker/codecs'
import { openFile } from '../storage/disk'
import type { Session } from '../session'

const { folder, remove } = scratchFolder()
afterAll(remove)

async function picturesOf(file: string): Promise<Picture[]> {
  const source = await openFile(file)
  const media = await openMedia(source)
  const out: Picture[] = []
  for await (const { picture } of openPictures(media, machineCodecs()).read({
    in: 0,
    out: media.info.video[0]!.frames,
  }))
    out.push(picture)
  await source.close()
  return out
}
async function soundOf(file: string): Promise<Float32Array[]> {
  const source = await openFile(file)
  const sound = openSound(await openMedia(source), machineCodecs())!
  const out = await sound.read(0, sound.samples)
  await source.close()
  return out
}
const counterOf = (p: Picture) => readCounter(p.planes[0], p.width, p.bitDepth)

describe.each(rates)('a timeline of two sources at $name', ({ name, rate, dropFrame }) => {
  const place = path.join(folder, name.replaceAll(/\W/g, '_'))
  const storage = path.join(place, 'storage')
  let a: ReelPlan
  let engine: Session
  let id: string
  const start = Math.round(rate.num / rate.den) * 3600 * 10

  beforeAll(async () => {
    mkdirSync(path.join(storage, 'cards'), { recursive: true })
    a = await smallReel(path.join(storage, 'cards', 'CARD_A.mov'), { rate, dropFrame })
    await smallReel(path.join(storage, 'cards', 'CARD_B.mov'), {
      rate,
      dropFrame,
      shots: [{ scene: 'gannets', frames: 60, name: 'b', reel: 'B' }],
      start: 5000,
      channels: [0, 1].map((c) =>
        Float32Array.from({ length: sampleAtFrame(60, rate, 48000) }, (_, i) => 0.2 * Math.sin(c + i / 9)),
      ),
    })
    const event = (
      track: string,
      from: number,
      to: number,
      card: 'A' | 'B',
      first: number,
      more: Partial<TimelineEvent> = {},
    ): TimelineEvent => {
      const base = card === 'A' ? a.start : 5000
      return {
        track,
        kind: track.startsWith('A') ? 'audio' : 'video',
        name: `shot ${from}`,
        reel: `CARD_${card}`,
        file: null,
        source: { in: base + first, out: base + first + to - from, rate, dropFrame },
        speed: normalSpeed,
        record: { in: from, out: to },
        transition: null,
        ...more,
      }
    }
    const sound = (from: number, to: number, card: 'A' | 'B', first: number, more: Partial<TimelineEvent> = {}) =>
      [0, 1].map((c) => event(`A${c + 1}`, from, to, card, first, { channels: [c], ...more }))
    const base = a.start
    const timeline: Timeline = {
      name: 'Tides',
      rate,
      dropFrame,
      start,
      length: 110,
      markers: [],
      tracks: [
        { name: 'V', kind: 'video' },
        { name: 'V2', kind: 'video' },
        { name: 'A1', kind: 'audio' },
        { name: 'A2', kind: 'audio' },
      ],
      events: [
        event('V', 0, 20, 'A', 30),
        event('V', 20, 50, 'B', 10, { transition: { kind: 'dissolve', frames: 8 } }),
        event('V', 60, 70, 'A', 0, {
          speed: { num: 2, den: 1 },
          source: { in: base + 40, out: base + 59, rate, dropFrame },
        }),
        event('V', 70, 90, 'A', 0, {
          speed: { num: -1, den: 1 },
          source: { in: base + 70, out: base + 90, rate, dropFrame },
        }),
        event('V', 90, 100, 'A', 0, {
          speed: { num: 1, den: 2 },
          source: { in: base + 100, out: base + 105, rate, dropFrame },
        }),
        event('V', 100, 110, 'A', 0, {
          speed: { num: 0, den: 1 },
          source: { in: base + 7, out: base + 8, rate, dropFrame },
        }),
        event('V2', 40, 45, 'A', 110),
        ...sound(0, 20, 'A', 30),
        ...sound(20, 50, 'B', 10, { transition: { kind: 'dissolve', frames: 8 } }),
        ...sound(60, 70, 'A', 0, {
          speed: { num: 2, den: 1 },
          source: { in: base + 40, out: base + 59, rate, dropFrame },
        }),
      ],
    }
    writeFileSync(path.join(storage, 'tides.otio'), writeInterchange({ timeline }, 'otio').text)
    engine = await testEngine(place)
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'tides.otio' })
    id = t.id
    expect(t.linking!.sources.map((s) => [s.reel, s.state, s.linked?.path])).toEqual([
      ['CARD_A', 'linked', 'cards/CARD_A.mov'],
      ['CARD_B', 'linked', 'cards/CARD_B.mov'],
    ])
    await engine.timelines.saveSplit(
      id,
      {
        regions: [
          { id: 'all', name: 'All', in: 0, out: 110, metadata: {} },
          { id: 'one', name: 'One', in: 5, out: 15, metadata: {} },
        ],
        markers: [],
      },
      t.splitVersion,
    )
  })
  afterAll(() => engine.close())

  it('is exported exactly: cuts, dissolves, gaps, layers, speeds, backwards, stills', async () => {
    await engine.outlets.save(outlet('master', 'storage', recipe('master')))
    await engine.outlets.save(outlet('sound', 'storage', recipe('sound')))
    await engine.outlets.save(outlet('copy', 'storage', recipe('rewrap')))
    await engine.outlets.choose(
      [
        { timelineId: id, regionId: 'all', outletId: 'master' },
        { timelineId: id, regionId: 'all', outletId: 'sound' },
        { timelineId: id, regionId: 'one', outletId: 'copy' },
        { timelineId: id, regionId: 'all', outletId: 'copy' },
      ],
      true,
    )
    await drain(engine)
    const plan = await deliverables(engine)
    expect(
      plan.filter((d) => !d.cleared).map((d) => [d.regionId, d.outletId, d.output.problems.map((p) => p.code)]),
    ).toEqual([['all', 'copy', ['rewrap.assembled']]])
    const run = await engine.nights.start('night', 2)
    await drain(engine)
    const view = await engine.progress.view(run)
    expect(view.items.map((i) => [i.title, i.state, i.problem?.message ?? null])).toEqual([
      ['All → master', 'done', null],
      ['All → sound', 'done', null],
      ['One → copy', 'done', null],
    ])

    const made = await picturesOf(path.join(storage, view.items[0]!.path))
    const black = made.map((p) => Math.max(...p.planes[0].subarray(0, 4000)) <= 64)
    const numbers = made.map((p, i) => (black[i] ? 'black' : counterOf(p)))
    const span = (from: number, n: number, step = 1) => Array.from({ length: n }, (_, i) => from + Math.floor(i * step))
    expect(numbers.slice(0, 20)).toEqual(span(30, 20))
    expect(numbers.slice(28, 40)).toEqual(span(18, 12))
    expect(numbers.slice(40, 45)).toEqual(span(110, 5))
    expect(numbers.slice(45, 50)).toEqual(span(35, 5))
    expect(numbers.slice(50, 60)).toEqual(Array.from({ length: 10 }, () => 'black'))
    expect(numbers.slice(60, 70)).toEqual(span(40, 10, 2))
    expect(numbers.slice(70, 90)).toEqual(span(70, 20).reverse())
    expect(numbers.slice(90, 110)).toEqual([...span(100, 10, 0.5), ...Array.from({ length: 10 }, () => 7)])
    // a dissolve is the sum of both sources, weighted at the middle of each frame
    const [cardA, cardB] = [
      await picturesOf(path.join(storage, 'cards', 'CARD_A.mov')),
      await picturesOf(path.join(storage, 'cards', 'CARD_B.mov')),
    ]
    for (let k = 0; k < 8; k++) {
      const [p, q, mix] = [cardA[50 + k]!.planes[0], cardB[10 + k]!.planes[0], made[20 + k]!.planes[0]]
      for (let i = 0; i < p.length; i += 997)
        expect(Math.abs(mix[i]! / 4 - (p[i]! * (15 - 2 * k) + q[i]! * (2 * k + 1)) / 16)).toBeLessThanOrEqual(0.5)
    }

    const heard = await soundOf(path.join(storage, view.items[1]!.path))
    const [tones, hums] = [a.channels, await soundOf(path.join(storage, 'cards', 'CARD_B.mov'))]
    const at = (f: number) => sampleAtFrame(f, rate, 48000)
    for (const c of [0, 1]) {
      for (let n = at(0); n < at(20); n += 61) expect(heard[c]![n]).toBeCloseTo(tones[c]![at(30) + n]!, 5)
      for (let n = at(28); n < at(50); n += 61) expect(heard[c]![n]).toBeCloseTo(hums[c]![at(10) + n - at(20)]!, 5)
      for (let n = at(20); n < at(28); n += 61) {
        const w = (2 * (n - at(20)) + 1) / (2 * (at(28) - at(20)))
        expect(heard[c]![n]).toBeCloseTo(tones[c]![at(30) + n]! * (1 - w) + hums[c]![at(10) + n - at(20)]! * w, 5)
      }
      expect(heard[c]!.subarray(at(50), at(60)).every((v) => v === 0)).toBe(true)
      for (let n = at(60); n < at(70); n += 61)
        expect(heard[c]![n]).toBeCloseTo(tones[c]![at(40) + 2 * (n - at(60))]!, 5)
      expect(heard[c]!.subarray(at(70)).every((v) => v === 0)).toBe(true)
    }
    // what is one shot of one source is copied untouched
    expect((await picturesOf(path.join(storage, view.items[2]!.path))).map(counterOf)).toEqual(span(35, 10))
  })

  it('says what is missing, and finds it again by one folder', async () => {
    const away = path.join(place, 'storage', 'attic')
    mkdirSync(away, { recursive: true })
    await smallReel(path.join(away, 'CARD_C.mov'), {
      rate,
      dropFrame,
      shots: [{ scene: 'bell', frames: 30, name: 'c', reel: 'C' }],
      start: 900,
    })
    rmSync(path.join(storage, 'cards', 'CARD_B.mov'))
    const { split, splitVersion } = await engine.timelines.get(id)
    const regions = [...split.regions, { id: 'two', name: 'Two', in: 25, out: 48, metadata: {} }]
    const looked = lookAt({ ...split, regions }, ['all', 'one', 'two'], true)
    await engine.timelines.saveSplit(id, looked, splitVersion)
    const lost = await engine.timelines.sources(await engine.timelines.get(id))
    expect(lost.map((s) => s.state)).toEqual(['linked', 'missing'])
    const again = await engine.timelines.relink(id)
    expect(again.linking!.sources[1]).toMatchObject({
      state: 'missing',
      problem: { code: 'link.missing', where: expect.stringContaining('tides.otio') as string },
    })
    const plan = await deliverables(engine)
    expect(plan.find((d) => d.regionId === 'all' && d.outletId === 'master')).toMatchObject({ cleared: false })
    // ends whose pictures are others than those that were looked at were not
    expect(again.split.regions.filter(isLookedAt).map((r) => r.id)).toEqual(['all', 'one'])
    const chosen = await engine.timelines.relink(id, {
      files: { 'reel CARD_B': { root: 'storage', path: 'attic/CARD_C.mov' } },
    })
    expect(chosen.linking!.sources[1]).toMatchObject({ state: 'short', linked: { path: 'attic/CARD_C.mov' } })
  })
})

describe.each(rates.slice(0, 2))('a timeline of uncompressed sources at $name', ({ name, rate, dropFrame }) => {
  it('is copied untouched over its cuts, sound and all', async () => {
    const place = path.join(folder, `plain_${name.replaceAll(/\W/g, '_')}`)
    const storage = path.join(place, 'storage')
    mkdirSync(storage, { recursive: true })
    const plans = await Promise.all(
      ['ONE', 'TWO'].map((card, i) =>
        smallReel(path.join(storage, `${card}.mov`), {
          rate,
          dropFrame,
          width: 640,
          height: 360,
          pictures: 'v210',
          start: 1000 * (i + 1),
          shots: [{ scene: 'bell', frames: 40, name: card, reel: card }],
          channels: [0, 1].map((c) =>
            Float32Array.from(
              { length: sampleAtFrame(40, rate, 48000) },
              (_, n) => 0.3 * Math.sin(n * (0.01 + i * 0.02) + c),
            ),
          ),
        }),
      ),
    )
    const cut = (from: number, to: number, card: 0 | 1, first: number): TimelineEvent[] =>
      (['V', 'A1', 'A2'] as const).map((track, k) => ({
        track,
        kind: k ? 'audio' : 'video',
        name: '',
        reel: ['ONE', 'TWO'][card]!,
        file: null,
        source: { in: plans[card]!.start + first, out: plans[card]!.start + first + to - from, rate, dropFrame },
        speed: normalSpeed,
        record: { in: from, out: to },
        transition: null,
        ...(k ? { channels: [k - 1] } : {}),
      }))
    const cuts = [
      [0, 12, 0, 3],
      [12, 25, 1, 20],
      [25, 31, 0, 30],
      [31, 50, 1, 0],
    ] as const
    const timeline: Timeline = {
      name: 'Plain',
      rate,
      dropFrame,
      start: 0,
      length: 50,
      markers: [],
      tracks: [
        { name: 'V', kind: 'video' },
        { name: 'A1', kind: 'audio' },
        { name: 'A2', kind: 'audio' },
      ],
      events: cuts.flatMap(([from, to, card, first]) => cut(from, to, card, first)),
    }
    writeFileSync(path.join(storage, 'plain.edl'), writeInterchange({ timeline }, 'edl').text)
    const engine = await testEngine(place)
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'plain.edl' })
    await engine.timelines.saveSplit(
      t.id,
      { regions: [{ id: 'r', name: 'r', in: 4, out: 47, metadata: {} }], markers: [] },
      t.splitVersion,
    )
    await engine.outlets.save(outlet('copy', 'storage', recipe('rewrap')))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'copy' }], true)
    await drain(engine)
    const run = await engine.nights.start('night', 2)
    await drain(engine)
    const { items } = await engine.progress.view(run)
    expect(items.map((i) => [i.state, i.problem?.message ?? null])).toEqual([['done', null]])
    const file = path.join(storage, items[0]!.path)
    const expected = cuts
      .flatMap(([from, to, , first]) => Array.from({ length: to - from }, (_, i) => first + i))
      .slice(4, 47)
    expect((await picturesOf(file)).map(counterOf)).toEqual(expected)
    const heard = await soundOf(file)
    const at = (f: number) => sampleAtFrame(f, rate, 48000)
    expect(heard[0]!.length).toBe(at(47) - at(4))
    for (const [from, to, card, first] of cuts) {
      for (let n = Math.max(at(from), at(4)); n < Math.min(at(to), at(47)); n += 53)
        for (const c of [0, 1])
          expect(heard[c]![n - at(4)]).toBeCloseTo(plans[card]!.channels[c]![at(first) + n - at(from)]!, 5)
    }
    await engine.close()
  })
})
