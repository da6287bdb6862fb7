import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import type { Picture } from '../../core/picture/picture'
import { readCounter } from '../../demo/reel'
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
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from '../worker/codecs'
import { measureFile } from '../worker/measurefile'

// A picture of a source that cannot be decoded costs that picture: it is said before the night, keeps back what it is
// in, and where that is accepted the one before stands in for it and everything else is made.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')
const fault = 'The picture at 10:01:01:05 cannot be decoded'

/** An intra master whose picture 30 is not to be read. */
async function damagedMaster(engine: Session): Promise<string> {
  await smallReel(path.join(storage, 'reel.mov'))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = { id: 'r', name: 'Bell', in: 25, out: 75, metadata: {} }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, 1)
  await engine.outlets.save(outlet('house', 'storage', recipe('broadcast', { scan: 'source', channels: [1, 2] })))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'house' }], true)
  await drain(engine)
  await engine.nights.start('master', 2)
  await drain(engine)
  const [made] = (await latestRun(engine)).items
  const file = path.join(storage, made!.path)
  const opened = await openMediaFile(file, 'master')
  const track = opened.media!.video[0]!
  const { offset, size } = track.sample(track.sampleOfFrame(30))
  await opened.close()
  const bytes = readFileSync(file)
  bytes.fill(0xff, offset + 2000, offset + size)
  writeFileSync(path.join(storage, 'damaged.mxf'), bytes)
  return path.join(storage, 'damaged.mxf')
}

async function picturesOf(file: string): Promise<Picture[]> {
  const opened = await openMediaFile(file, file)
  const out: Picture[] = []
  const pictures = opened.pictures(machineCodecs())
  for await (const { picture } of pictures.read({ in: 0, out: pictures.frames })) out.push(picture)
  await opened.close()
  return out
}

it('costs that picture', async () => {
  mkdirSync(storage, { recursive: true })
  const engine = await testEngine(folder)
  const file = await damagedMaster(engine)

  // a file of others: everything else of it is measured
  const { intact, ...rest } = await measureFile(file)
  expect([intact!.value, intact!.text]).toEqual([false, `not whole (${fault})`])
  for (const m of ['loudness', 'black', 'freeze', 'levels', 'line-up'])
    expect([m, rest[m]!.value]).not.toEqual([m, null])
  expect(rest.freeze).toMatchObject({ value: 0 })

  const t = await engine.timelines.bringIn({ root: 'storage', path: 'damaged.mxf' })
  const region = (id: string, from: number, to: number) => ({ id, name: id, in: from, out: to, metadata: {} })
  await engine.timelines.saveSplit(
    t.id,
    { regions: [region('with', 5, 40), region('without', 31, 50)], markers: [] },
    1,
  )
  await engine.outlets.save(outlet('copy', 'storage', recipe('rewrap', { container: 'mxf' })))
  await engine.outlets.save(outlet('view', 'storage', recipe('viewing', { width: 640, height: 360, channels: [1, 2] })))
  const keys = ['copy', 'view'].flatMap((outletId) =>
    ['with', 'without'].map((regionId) => ({ timelineId: t.id, regionId, outletId })),
  )
  await engine.outlets.choose(keys, true)
  await drain(engine)
  expect((await engine.viewing.analysis(t)).pictures!.damaged).toEqual([{ in: 30, out: 31 }])
  const own = async () => (await deliverables(engine)).filter((d) => d.timelineId === t.id)
  const whole = (await own()).map((d) => {
    const rule = d.results.find((r) => r.rule.measure === 'intact')!
    return [d.regionId, d.outletId, d.cleared, rule.verdict, rule.why.includes(fault)]
  })
  expect(whole).toEqual([
    ['with', 'copy', false, 'fail', true],
    ['with', 'view', false, 'fail', true],
    ['without', 'copy', true, 'pass', false],
    ['without', 'view', true, 'pass', false],
  ])

  const rule = (await own())[0]!.results.find((r) => r.rule.measure === 'intact')!.rule.id
  await engine.nights.waive(keys, {
    rule,
    reason: 'there is no other copy',
    initials: 'AB',
    at: '2026-03-01T20:00:00Z',
  })
  await drain(engine)
  await engine.nights.start('night', 2, keys.map(keyText))
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => [i.state, i.verdict, i.problem?.message ?? '']).sort()).toEqual([
    ['done', 'pass', ''],
    ['done', 'pass', ''],
    ['done', 'waived', ''],
    ['done', 'waived', ''],
  ])
  // frames of the reel from 30 on; the one that cannot be read is that of 55
  const view = items.find((i) => i.path.endsWith('01_with.mp4'))!
  const numbers = (await picturesOf(path.join(storage, view.path))).map((p) =>
    readCounter(p.planes[0] as Uint8Array, p.width),
  )
  expect(numbers).toEqual(Array.from({ length: 35 }, (_, i) => (i === 25 ? 54 : 30 + i)))
  await engine.close()
})
