import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { pictureCodec } from '../../../core/codec/registry'
import { mxf } from '../../../core/container/mxf/container'
import { openMedia } from '../../../core/container/registry'
import { bt709 } from '../../../core/media/colour'
import { noise } from '../../../core/kernel/noise'
import { emptyPicture } from '../../../core/picture/picture'
import type { Recipe } from '../../../core/recipe/recipe'
import { makeRate } from '../../../core/time/rate'
import { activeFormat, captions, elementOf, timecode } from '../../../tests/blanking'
import { deliver, deliverables, outlet, recipe, scratchFolder, testEngine } from '../../../tests/fixtures'
import type { Session } from '../../session'
import { openFile } from '../../storage/disk'
import { measureFile } from '../measurefile'

// Captions and other lines of the blanking, from a source through the night into proven files.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const frames = 12
const range = { in: 2, out: 9 }
const packets = (n: number) => (n % 3 === 0 ? [captions(n), activeFormat] : [captions(n)])
const lines = (n: number) => elementOf([timecode, ...packets(n)])
let engine: Session

/** A segmented 1080-line film with captions in every frame, as another house may send it. */
async function film(): Promise<Uint8Array> {
  const shape = { width: 1920, height: 1080, rate: makeRate(25), scan: 'segmented' } as const
  const encode = pictureCodec('mpeg2')!.encode!
  const pictureBytes = encode.frameBytes!(shape, 50e6)
  const encoder = encode.open({ ...shape, bitrate: 50e6, colour: bt709 }, null)
  const units = mxf.units!('mxf', {
    video: { ...shape, kind: 'video', codec: 'mpeg2', pixelAspect: '1:1', colour: bt709, configuration: null },
    ...{ pictureBytes, sound: null, samplesBefore: () => 0, data: ['ancillary'], frames, rate: shape.rate },
    ...{ start: { frames: 90_000, dropFrame: false }, name: 'Fog Bell', chapters: [] },
    identity: new Uint8Array(16).fill(9),
  })
  const out = new Uint8Array(units.tail.at + units.tail.bytes.length)
  out.set(units.head)
  out.set(units.tail.bytes, units.tail.at)
  const picture = emptyPicture(1920, 1080, '4:2:2', 8)
  for (let n = 0; n < frames; n++) {
    const grain = noise(new Uint8Array(1920), 60, n + 1)
    picture.planes[0].forEach((_, i) => (picture.planes[0][i] = 60 + grain[i % 1920]! + n))
    await encoder.feed({ ...picture })
    for (const u of encoder.take()) for (const p of units.unit(n, u.bytes, [], [lines(n)])) out.set(p.bytes, p.at)
  }
  return out
}

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  writeFileSync(path.join(storage, 'film.mxf'), await film())
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

const made = (name: string, by: Recipe) => deliver(engine, { name, file: 'film.mxf', range, by })

/** A master's captions after a rewrap of some of its frames. */
async function rewrapped(file: string): Promise<void> {
  const by = recipe('rewrap', { container: 'mxf' })
  const copy = await deliver(engine, { name: 'copy', file, range: { in: 1, out: 4 }, by })
  expect([copy.state, copy.verdict, copy.problem]).toEqual(['done', 'pass', null])
  const source = await openFile(path.join(storage, copy.path))
  const { data } = await openMedia(source)
  for (let n = 0; n < 3; n++)
    expect(Buffer.from(await data![0]!.read(n)).equals(Buffer.from(lines(range.in + 1 + n)))).toBe(true)
  await source.close()
}

describe('captions of a source', () => {
  it.each<[string, Recipe]>([
    ['a broadcast master', recipe('broadcast')],
    ['a master of MPEG-2', recipe('mpeg2')],
  ])('are taken over into %s, frame by frame as they were', async (name, by) => {
    const item = await made(name, by)
    expect([item.state, item.verdict, item.problem]).toEqual(['done', 'pass', null])
    const source = await openFile(path.join(storage, item.path))
    const { data, info } = await openMedia(source)
    expect(info.data).toEqual([
      { kind: 'ancillary', label: 'ancillary data', carries: ['timecode', 'captions-708', 'active-format'] },
    ])
    for (let n = range.in; n < range.out; n++)
      expect(Buffer.from(await data![0]!.read(n - range.in)).equals(Buffer.from(lines(n)))).toBe(true)
    await source.close()
    if (by.kind === 'broadcast') await rewrapped(item.path)
    const readings = await measureFile(path.join(storage, item.path))
    expect(readings.ancillary).toMatchObject({
      value: ['timecode', 'captions-708', 'active-format'],
      text: 'ancillary timecode in every frame, CEA-708 captions in every frame, active format in 2 of 7 frames',
    })
    expect(readings['active-format']?.value).toBe('varies')
    expect(readings.captions).toMatchObject({ value: ['S1'], text: 'S1 (7 letters)' })
    expect(readings['caption-packets']).toMatchObject({ value: 'whole', text: 'whole' })
  })

  it('are said to be lost where a file has no room for them, before it is made', async () => {
    const item = await made('viewing', recipe('viewing', { channels: 'none' }))
    expect([item.state, item.verdict, item.problem]).toEqual(['done', 'pass', null])
    const lost =
      'the source has ancillary data (ancillary timecode, CEA-708 captions, active format), which the file is without'
    const losing = (await deliverables(engine)).filter((d) =>
      d.results.find((r) => r.rule.measure === 'data-kept')!.why.includes(lost),
    )
    expect(losing.map((d) => d.outletId)).toEqual(['viewing'])
  })

  it('are taken over without a timecode that would contradict that of the file', async () => {
    const item = await made('anew', recipe('mpeg2', { start: '10:00:00:00' }))
    expect([item.state, item.verdict, item.problem]).toEqual(['done', 'pass', null])
    const source = await openFile(path.join(storage, item.path))
    const { data } = await openMedia(source)
    for (let n = range.in; n < range.out; n++)
      expect(data![0]!.packets(await data![0]!.read(n - range.in))).toEqual(packets(n))
    await source.close()
  })

  it('are lost where a frame gets other lines', async () => {
    const { id } = (await engine.timelines.list())[0]!
    await engine.outlets.save(outlet('d10', 'storage', recipe('d10')))
    await engine.outlets.choose([{ timelineId: id, regionId: 'r', outletId: 'd10' }], true)
    const d = (await deliverables(engine)).find((x) => x.outletId === 'd10')!
    expect(d.results.find((r) => r.rule.measure === 'data-kept')!.verdict).toBe('caution')
  })
})
