import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openMedia } from '../../../core/container/registry'
import type { Recipe } from '../../../core/recipe/recipe'
import { activeFormat, captions, elementOf, timecode } from '../../../tests/blanking'
import { film } from '../../../tests/film'
import { deliver, deliverables, outlet, recipe, scratchFolder, testEngine } from '../../../tests/fixtures'
import type { Session } from '../../session'
import { openFile } from '../../storage/disk'
import { measureFile } from '../measurefile'

// Captions and other lines of the blanking, from a source through the night into proven files.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const range = { in: 2, out: 9 }
const packets = (n: number) => (n % 3 === 0 ? [captions(n), activeFormat] : [captions(n)])
const lines = (n: number) => elementOf([timecode, ...packets(n)])
let engine: Session

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  writeFileSync(path.join(storage, 'film.mxf'), await film({ lines }))
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
