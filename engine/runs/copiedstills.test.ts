import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import { filesOf } from '../../core/files/fileset'
import { bt709 } from '../../core/media/colour'
import { dpx } from '../../core/stills/dpx'
import { exr } from '../../core/stills/exr/exr'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type TimelineEvent } from '../../core/timeline/model'
import { makeRate } from '../../core/time/rate'
import {
  deliver,
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
import { stillLibrary } from '../storage/stilllibrary'

// Stills out of stills: the same samples under new names.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')
const rate = makeRate(25)
const at = (name: string) => path.join(storage, name)
const bytesOf = (run: string) => filesOf(at(run))!.map((f) => readFileSync(f))
let engine: Session

const [width, height] = [48, 32]
const samples = (n: number, channels: number) =>
  Uint16Array.from({ length: width * height * channels }, (_, i) => (i * 977 + n * 4099) & 0xffff)

async function png(n: number, channels: 3 | 4 = 4): Promise<Buffer> {
  return sharp(samples(n, channels), { raw: { width, height, channels } }).toColourspace('rgb16').png().toBuffer()
}

/** A run of DPX whose first label is of a frame. */
async function dpxRun(name: string, first: number, count: number): Promise<void> {
  mkdirSync(path.dirname(at(name)), { recursive: true })
  for (let n = 0; n < count; n++) {
    const rgb = Float32Array.from(samples(first + n, 3), (v) => v / 65535)
    const told = {
      ...{ name: 'x', show: 'Tides', date: '2026-03-01', rate, colour: bt709, pixelAspect: '1:1', interlaced: false },
      ...{ timecode: `01:00:0${Math.floor((first + n) / 25)}:${String((first + n) % 25).padStart(2, '0')}` },
      ...{ position: n, length: count, reel: '' },
    }
    const bytes = await dpx.writes[0]!.write({ width, height, rgb }, told, stillLibrary)
    writeFileSync(at(`${name}.${String(90_000 + first + n).padStart(7, '0')}.dpx`), bytes)
  }
}

beforeAll(async () => {
  mkdirSync(at('titles'), { recursive: true })
  for (let n = 1; n <= 12; n++) writeFileSync(at(`titles/board.00${String(n).padStart(2, '0')}.png`), await png(n))
  await dpxRun('scans/fog', 0, 20)
  await dpxRun('scans/gulls', 30, 20)
  engine = await testEngine(folder)
})
afterAll(() => engine.close())

const copied = recipe('copied-stills')

describe('stills that are copied', () => {
  it('are the same bytes with their alpha channel, which is lost where others are made of them', async () => {
    const file = 'titles/board.[0001-0012].png'
    const of = { file, range: { in: 3, out: 9 } }
    const done = await deliver(engine, { ...of, name: 'boards', by: { ...copied, firstNumber: 1001, digits: 4 } })
    expect([done.state, done.problem?.message, done.path]).toEqual([
      ...['done', undefined, 'out/boards/01_Fog_Bell/01_Fog_Bell.[1001-1006].png'],
    ])
    expect(bytesOf(done.path).map((b) => b.toString('base64'))).toEqual(
      bytesOf('titles/board.[0004-0009].png').map((b) => b.toString('base64')),
    )
    expect(readdirSync(path.dirname(at(done.path)))).toHaveLength(7)
    await engine.outlets.save(outlet('made', 'storage', recipe('sequence', { stillFormat: 'png-16' })))
    await engine.outlets.choose([{ ...(await engine.timelines.list())[0]!, outletId: 'made' }].map(keyOf), true)
    const alpha = (await deliverables(engine)).map(({ path, results }) => {
      const { verdict, forecast } = results.find((r) => r.rule.measure === 'alpha')!
      return [path.split('/')[1], verdict, forecast?.value]
    })
    expect(alpha).toEqual(expect.arrayContaining([...[['boards', 'pass', 'kept']], ...[['made', 'caution', 'lost']]]))
    const [first] = await deliverables(engine)
    expect(first!.output.notes?.join()).toMatch(/byte for byte; they cannot say their timecode/)
    expect(first!.output.video).toMatchObject({ bitDepth: 16, chroma: '4:4:4', colour: null })
  })

  it('come from several runs of a list as one, each with its new name and timecode', async () => {
    const event = (name: string, first: number, from: number): TimelineEvent => ({
      ...{ track: 'V', kind: 'video', name, reel: name, transition: null, speed: normalSpeed },
      file: `${name}.[00${90_000 + first}-00${90_019 + first}].dpx`,
      source: { in: 90_000 + first + 4, out: 90_000 + first + 14, rate, dropFrame: false },
      record: { in: from, out: from + 10 },
    })
    const timeline = {
      ...{ name: 'Tides', rate, dropFrame: false, start: 900_000, length: 20, markers: [] },
      tracks: [{ name: 'V', kind: 'video' as const }],
      events: [event('fog', 0, 0), event('gulls', 30, 10)],
    }
    writeFileSync(at('tides.otio'), writeInterchange({ timeline }, 'otio').text)
    const done = await deliver(engine, { name: 'scans', file: 'tides.otio', range: { in: 2, out: 16 }, by: copied })
    expect([done.state, done.problem?.message]).toEqual(['done', undefined])
    expect(done.path).toMatch(/01_Fog_Bell\.\[0900002-0900015\]\.dpx$/)
    const there = bytesOf(done.path)
    const wanted = [...bytesOf('scans/fog.[0090006-0090013].dpx'), ...bytesOf('scans/gulls.[0090034-0090039].dpx')]
    expect(there).toHaveLength(14)
    for (const [n, bytes] of there.entries()) {
      expect(bytes.subarray(2048).equals(wanted[n]!.subarray(2048))).toBe(true)
      const { head } = await dpx.read(bytes, 'x', stillLibrary)
      expect(head.timecode).toEqual([10, 0, 0, 2 + n])
    }
    // made with the timecode of the first picture’s source, they say its reel for as long as it is that
    const by = recipe('sequence', { stillFormat: 'exr-none', start: 'source' })
    const made = await deliver(engine, { name: 'pulls', file: 'tides.otio', range: { in: 2, out: 16 }, by })
    expect([made.state, made.problem?.message]).toEqual(['done', undefined])
    const heads = await Promise.all(bytesOf(made.path).map(async (b) => (await exr.read(b, 'x', stillLibrary)).head))
    expect(heads.map((h) => h.reel)).toEqual([...Array(8).fill('fog'), ...Array(6).fill('')])
    expect([heads[0]!.timecode, heads[13]!.timecode]).toEqual([
      [1, 0, 0, 6],
      [1, 0, 0, 19],
    ])
  })

  it('are refused by name where one of them is cut off, or without the alpha channel of the first', async () => {
    for (const [name, bytes, why] of [
      ['cut', (await png(3)).subarray(0, 900), /picture at 00:00:00:04 cannot be decoded/],
      ['flat', await png(3, 3), /picture at 00:00:00:04 cannot be decoded/],
    ] as const) {
      mkdirSync(at(name))
      for (let n = 1; n <= 5; n++) writeFileSync(at(`${name}/x.000${n}.png`), n === 4 ? bytes : await png(n))
      const file = `${name}/x.[0001-0005].png`
      const night = deliver(engine, { name, file, range: { in: 0, out: 5 }, by: copied })
      await expect(night).rejects.toMatchObject({
        problem: { message: expect.stringMatching(/nothing to run/) as string },
      })
      const { results } = (await deliverables(engine)).find((d) => d.path.includes(`out/${name}/`))!
      const bad = results.filter((r) => r.blocks)
      expect([name, bad.map((r) => [r.rule.measure, r.why])]).toEqual([name, [['intact', expect.stringMatching(why)]]])
    }
  })

  it('go as they are where it was accepted that they cannot be decoded', async () => {
    const [t] = (await engine.timelines.list()).filter((x) => x.file.path.startsWith('cut/'))
    const key = keyOf({ id: t!.id, outletId: 'cut' })
    await engine.nights.waive([key], {
      rule: 'house-intact',
      reason: 'a new one comes',
      initials: 'QP',
      at: '2026-11-25',
    })
    await engine.nights.start('as it is', 2, [keyText(key)])
    await drain(engine)
    const [item] = (await latestRun(engine)).items
    expect([item!.state, item!.problem?.message]).toEqual(['done', undefined])
    expect(bytesOf(item!.path)[3]).toEqual(readFileSync(at('cut/x.0004.png')))
  })

  it('are none where the source is a film', async () => {
    await smallReel(at('reel.mov'))
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
    const split = { regions: [{ id: 'r', name: 'Bell', in: 0, out: 5, metadata: {} }], markers: [] }
    await engine.timelines.saveSplit(t.id, split, t.splitVersion)
    await engine.outlets.choose([keyOf({ id: t.id, outletId: 'boards' })], true)
    const film = (await deliverables(engine)).find((d) => d.timelineId === t.id)!
    expect(film.cleared).toBe(false)
    expect(film.output.problems.map((p) => p.code)).toEqual(['recipe.stills'])
  })
})

function keyOf({ id, outletId }: { readonly id: string; readonly outletId: string }) {
  return { timelineId: id, regionId: 'r', outletId }
}
