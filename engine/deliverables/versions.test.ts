import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Region } from '../../core/split/region'
import { rangesBy } from '../../core/split/makers/registry'
import { addRegions } from '../../core/split/edit'
import { drain, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'

// What was delivered of an older version of a timeline, and what of it has to be made again.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
const list = (name: string, ...events: readonly [from: string, to: string, at: string, end: string][]) =>
  writeFileSync(
    path.join(storage, name),
    `TITLE: trailer\nFCM: NON-DROP FRAME\n${events
      .map((e, i) => `00${i + 1} REEL AA/V C ${e[0]} ${e[1]} ${e[2]} ${e[3]}\n`)
      .join('')}`,
  )
beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'REEL.mov'))
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})
const at = (file: string) => ({ root: 'storage', path: file })
const changed = async (timelineId: string) =>
  Object.fromEntries(
    (await engine.live.list()).list
      .filter((d) => d.timelineId === timelineId)
      .map((d) => [`${d.title}`, d.became?.changed ?? null]),
  )

it('is what has changed in pictures, sound or settings; what only moved is not, where its start is set', async () => {
  const [one, two, three] = [
    ['10:00:59:00', '10:01:00:00'],
    ['10:01:01:00', '10:01:02:00'],
    ['10:01:02:00', '10:01:03:00'],
  ] as const
  list(
    'cut.edl',
    [...one, '01:00:00:00', '01:00:01:00'],
    [...two, '01:00:01:00', '01:00:02:00'],
    [...three, '01:00:02:00', '01:00:03:00'],
  )
  const v1 = await engine.timelines.bringIn(at('cut.edl'))
  const region = (id: string, from: number, to: number): Region => ({ id, name: id, in: from, out: to, metadata: {} })
  const regions = [region('a', 0, 25), region('b', 25, 50), region('c', 50, 75)]
  await engine.timelines.saveSplit(v1.id, { regions, markers: [] }, v1.splitVersion)
  await engine.outlets.save(outlet('Set', 'storage', recipe('sound', { start: '10:00:00:00' })))
  await engine.outlets.save(outlet('Own', 'storage', recipe('sound')))
  const choose = (timelineId: string, ids: readonly string[]) =>
    engine.outlets.choose(
      ids.flatMap((regionId) => ['Set', 'Own'].map((outletId) => ({ timelineId, regionId, outletId }))),
      true,
    )
  await choose(v1.id, ['a', 'b', 'c'])
  await drain(engine)
  await engine.nights.start('first', 2)
  await drain(engine)
  // the first shot is ten frames shorter, the second is another place of the reel, the third has moved
  list(
    'cut.edl',
    ['10:00:59:10', '10:01:00:00', '01:00:00:00', '01:00:00:15'],
    [...['10:01:00:20', '10:01:01:20', '01:00:00:15', '01:00:01:15']] as unknown as [string, string, string, string],
    [...three, '01:00:01:15', '01:00:02:15'],
  )
  const v2 = await engine.timelines.bringIn(at('cut.edl'))
  expect(v2.name).toBe('cut v2')
  const older = { id: v1.id, timeline: v1.model, split: { regions, markers: [] }, outlets: new Map() }
  const made = rangesBy('version', { timeline: v2.model, older })
  let n = 0
  const { split } = addRegions({ regions: [], markers: [] }, made, () => `n${++n}`)
  await engine.timelines.saveSplit(v2.id, split, v2.splitVersion)
  await choose(
    v2.id,
    split.regions.map((r) => r.id),
  )
  await drain(engine)
  const now = await changed(v2.id)
  expect(now['c → Set']).toEqual([])
  expect(now['c → Own']).toEqual(['start'])
  expect(now['a → Set']).toEqual(['out'])
  const all = (await engine.live.list()).list
  const ofOne = all.filter((d) => d.timelineId === v1.id)
  expect(ofOne.map((d) => d.superseded)).toEqual(ofOne.map((d) => made.some((r) => r.from?.regionId === d.regionId)))
  // both would get one name: the newer does
  expect(all.filter((d) => d.timelineId === v2.id).every((d) => d.cleared)).toBe(true)
  expect(ofOne.filter((d) => d.superseded).some((d) => d.cleared)).toBe(false)
  // a night makes what has changed, and nothing twice
  const before = (await engine.handover.list()).length
  await engine.nights.start('second', 2)
  await drain(engine)
  const fresh = (await engine.handover.list()).slice(0, -before).map((f) => `${f.region} ${f.outlet}`)
  expect(fresh).not.toContain('c Set')
  expect(fresh).toContain('c Own')
  expect(Object.values(await changed(v2.id)).every((c) => c?.length === 0)).toBe(true)
})
