import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readExactly } from '../../core/bytes'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import type { Proof } from '../../core/deliverable/proof'
import { keyText } from '../../core/deliverable/outlet'
import type { Recipe } from '../../core/recipe/recipe'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../core/timeline/model'
import { makeRate } from '../../core/time/rate'
import {
  deliverables,
  drain,
  latestRun,
  outlet,
  recipe,
  scratchFolder,
  smallReel,
  testEngine,
} from '../../tests/fixtures'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import { machineCodecs } from '../worker/codecs'

// A mix comes late, papers are put right, a channel was wrong: the pictures of what was delivered and proven are taken
// as they are, and made only where they would come out otherwise or are not what was proven any more.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const rate = makeRate(25)
const frames = 120
let engine: Session
/** Timelines of the same pictures, by the sound laid under them. */
const timelines = new Map<string, string>()

const event = (track: string, reel: string, more: Partial<TimelineEvent> = {}): TimelineEvent => ({
  ...{ track, kind: track === 'V' ? 'video' : 'audio', name: 'tide', reel, file: null, speed: normalSpeed },
  ...{ source: { in: 5000, out: 5000 + frames, rate, dropFrame: false }, record: { in: 0, out: frames } },
  ...{ transition: null, ...more },
})
function listOf(name: string, mix: string): Timeline {
  const sound = [0, 1].map((c) => event(`A${c + 1}`, mix, { channels: [c] }))
  const tracks = ['V', 'A1', 'A2'].map((t) => ({ name: t, kind: t === 'V' ? ('video' as const) : ('audio' as const) }))
  const base = { name, rate, dropFrame: false, start: 90_000, length: frames, markers: [], tracks }
  return { ...base, events: [event('V', 'CARD'), ...sound] }
}

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'CARD.mov'), { start: 5000 })
  for (const [name, level] of [
    ['FIRST', 0.2],
    ['SECOND', 0.05],
  ] as const) {
    const channels = [0, 1].map((c) => Float32Array.from({ length: 230_400 }, (_, i) => level * Math.sin(c + i / 9)))
    await smallReel(path.join(storage, `${name}.mov`), { start: 5000, channels })
    writeFileSync(path.join(storage, `${name}.otio`), writeInterchange({ timeline: listOf(name, name) }, 'otio').text)
  }
  engine = await testEngine(folder)
  for (const name of ['FIRST', 'SECOND']) {
    const t = await engine.timelines.bringIn({ root: 'storage', path: `${name}.otio` })
    timelines.set(name, t.id)
    const region = { id: 'r', name: 'Tide', in: 0, out: frames, metadata: {} }
    const short = { ...region, id: 's', name: 'Ebb', in: 40, out: 56 }
    await engine.timelines.saveSplit(t.id, { regions: [region, short], markers: [] }, t.splitVersion)
  }
})
afterAll(async () => {
  await engine.close()
  remove()
})

const keyOf = (name: string, regionId: string, outletId: string) => ({
  ...{ timelineId: timelines.get(name)!, regionId, outletId },
})

interface Made {
  readonly proof: Proof
  readonly file: string
  readonly kinds: string[]
}

/** Delivers a region of one of the timelines. */
async function made(name: string, regionId: string, by: Recipe, changes = {}, anew = false): Promise<Made> {
  const key = keyOf(name, regionId, by.kind)
  await engine.outlets.save(outlet(by.kind, 'storage', by, { pattern: '{timeline}_{region}', ...changes }))
  await engine.outlets.choose([key], true)
  await engine.timelines.media.look()
  await drain(engine)
  const [own] = (await deliverables(engine)).filter((d) => keyText(d) === keyText(key))
  expect(own!.results.filter((r) => r.blocks).map((r) => r.why)).toEqual([])
  await engine.nights.start('night', 2, [keyText(key)], anew)
  await drain(engine)
  const [item] = (await latestRun(engine)).items
  expect([item!.state, item!.problem]).toEqual(['done', null])
  const { proof, item: frozen } = (await engine.handover.one(item!.id))!
  return { proof, file: path.join(storage, item!.path), kinds: frozen.steps.map((s) => s.kind) }
}

/** The coded pictures of a file, and the loudest sample of its sound. */
async function contents(file: string): Promise<{ units: string[]; peak: number }> {
  const source = await openFile(file)
  const media = await openMedia(source)
  const track = media.video[0]!
  const units: string[] = []
  for (let i = 0; i < track.sampleCount; i++) {
    const { offset, size } = track.sample(i)
    units.push(Buffer.from(await readExactly(source, offset, size)).toString('latin1'))
  }
  const sound = openSound(media, machineCodecs())!
  const [first] = await sound.read(4800, 4800)
  await source.close()
  return { units, peak: first!.reduce((m, v) => Math.max(m, Math.abs(v)), 0) }
}

describe.each([
  ['of coded segments that are joined', 'viewing', 'r', 'take-segment'],
  ['all of one size, in their places', 'd10', 's', 'take-in-place'],
] as const)('pictures %s', (_, kind, region, taking) => {
  const [first, second] = ['FIRST', 'SECOND'] as const
  let before: Made
  let after: Made
  it('are those of the proven file where new sound is laid under them', async () => {
    before = await made(first, region, recipe(kind))
    expect([before.kinds.includes(taking), before.proof.taken]).toEqual([false, undefined])
    const key = keyOf(second, region, kind)
    await engine.outlets.choose([key], true)
    await drain(engine)
    const planned = (await deliverables(engine)).find((d) => d.timelineId === key.timelineId && d.regionId === region)!
    expect(planned.earlier?.path).toBe(path.relative(storage, before.file))
    expect(planned.seconds).toBeLessThan(planned.madeIn)
    after = await made(second, region, recipe(kind))
    expect([after.kinds.includes(taking), after.proof.taken, after.proof.verdict]).toEqual([
      true,
      path.relative(storage, before.file),
      'pass',
    ])
    // what was found in all of them once is not looked for again
    expect(before.proof.decoded).toBe(kind === 'viewing' ? 7 : 16)
    expect(after.proof.decoded).toBe(kind === 'viewing' ? 7 : 2)
    expect(after.proof.content).toEqual(before.proof.content)
    const [a, b] = [await contents(before.file), await contents(after.file)]
    expect(b.units.length).toBe(region === 'r' ? 120 : 16)
    expect(b.units.every((u, i) => u === a.units[i])).toBe(true)
    expect(a.peak).toBeCloseTo(0.2, 2)
    expect(b.peak).toBeCloseTo(0.05, 2)
  })
  it('also where its channels, its level and its name are others', async () => {
    const changes = { channels: [2, 1], gain: -6 }
    const other = await made(second, region, recipe(kind, changes), { pattern: '{timeline}_{region}_again' })
    expect(other.proof.taken).toBe(path.relative(storage, after.file))
    const { units, peak } = await contents(other.file)
    expect(units).toEqual((await contents(before.file)).units)
    expect(peak).toBeCloseTo(0.05 / 10 ** (6 / 20), 2)
  })
  it('and are made where they would come out otherwise, and where that is asked for', async () => {
    const burned = recipe(kind, kind === 'viewing' ? { burnTimecode: true } : { start: '09:00:00:00' })
    expect((await made(second, region, burned)).proof.taken).toBeUndefined()
    const asked = await made(second, region, recipe(kind, { gain: -3 }), {}, true)
    expect([asked.proof.taken, asked.kinds.includes(taking)]).toEqual([undefined, false])
    // what is there just so is made anew by who asks for it once more
    expect((await made(second, region, recipe(kind, { gain: -3 }))).proof.taken).toBeUndefined()
  })
  it('and are made where the proven file is not what was proven any more, and that is told', async () => {
    for (const { file } of await deliveredFiles(kind)) {
      const bytes = readFileSync(file)
      bytes[bytes.length >> 1]! ^= 1
      writeFileSync(file, bytes)
    }
    const again = await made(second, region, recipe(kind, { gain: -9 }))
    expect([again.kinds.includes(taking), again.proof.taken, again.proof.verdict]).toEqual([true, undefined, 'pass'])
    expect((await contents(again.file)).peak).toBeCloseTo(0.05 / 10 ** (9 / 20), 2)
  })
})

it('is so in parts behind line-up as well, which is made for each file and looked at whole', async () => {
  const by = recipe('master', { lineUp: -18, breaks: 0, start: '10:00:00:00' })
  const after = await made('SECOND', 's', by)
  expect(after.proof.taken).toBeUndefined()
  const louder = await made('SECOND', 's', { ...by, gain: -2 })
  expect(louder.proof.taken).toBe(path.relative(storage, after.file))
  const lead = 30 * 25
  expect(louder.proof.decoded).toBeGreaterThan(lead)
  expect(louder.proof.decoded).toBeLessThan(lead + 16)
  expect(louder.proof.content).toEqual(after.proof.content)
  expect(louder.proof.results.filter((r) => r.verdict !== 'pass').map((r) => r.why)).toEqual([])
  const [a, b] = [await contents(after.file), await contents(louder.file)]
  expect(b.units).toEqual(a.units)
})

describe('pictures that several files of a night would code alike', () => {
  const keys = () => ['one', 'two', 'other'].map((o) => keyOf('FIRST', 'r', o))
  const copy = (more: Partial<Recipe>) => recipe('viewing', { width: 320, height: 180, ...more })
  const night = async () => {
    await drain(engine)
    return engine.nights.start('alike', 2, keys().map(keyText))
  }
  /** How the files of the run that was started last came to be, in its order. */
  const came = async () => {
    await drain(engine)
    const { items } = await latestRun(engine)
    const all = await Promise.all(items.map((i) => engine.handover.one(i.id)))
    return items.map((i, n) => [i.state, all[n] ? (all[n].proof.taken ?? 'made') : null])
  }
  beforeAll(async () => {
    await engine.outlets.save(outlet('one', 'storage', copy({ channels: [1, 2] })))
    await engine.outlets.save(outlet('two', 'storage', copy({ channels: [2, 1] })))
    await engine.outlets.save(outlet('other', 'storage', copy({ channels: [1, 2], pictureBitrate: 900 })))
    await engine.outlets.choose(keys(), true)
  })
  it('are told before, with what each takes', async () => {
    await drain(engine)
    const list = [...(await engine.deliverables.summaries(await engine.nights.situation())).values()]
    const [one, two, other] = keys().map((k) => list.find((d) => keyText(d) === keyText(k))!.codes!)
    expect(two!.sum).toBe(one!.sum)
    expect(other!.sum).not.toBe(one!.sum)
    expect(two!.takenIn).toBeLessThan(list.find((d) => d.outletId === 'two')!.seconds)
  })
  it('are coded once, and the others wait for its proof', async () => {
    await night()
    expect(await came()).toEqual([
      ['done', 'made'],
      ['done', 'out/one/01_Tide.mp4'],
      ['done', 'made'],
    ])
    const [a, b] = [1, 2].map((n) => path.join(storage, `out/${n === 1 ? 'one' : 'two'}/01_Tide.mp4`))
    expect((await contents(b!)).units).toEqual((await contents(a!)).units)
  })
  it('and once again where the run is done again, by the new ones', async () => {
    await engine.runs.repeat((await latestRun(engine)).id)
    expect(await came()).toEqual([
      ['done', 'made'],
      ['done', 'out/one/01_Tide_v02.mp4'],
      ['done', 'made'],
    ])
  })
  it('are made by the others where the first is not', async () => {
    const run = await night()
    await engine.runs.skip(`${run}-001`)
    expect(await came()).toEqual([
      ['skipped', null],
      ['done', 'made'],
      ['done', 'made'],
    ])
  })
})

async function deliveredFiles(kind: string): Promise<{ file: string }[]> {
  const all = await engine.handover.list()
  return all.filter((f) => f.outletId === kind).map((f) => ({ file: path.join(storage, f.path) }))
}
