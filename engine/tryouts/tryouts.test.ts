import { mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { triedFigures } from '../../core/deliverable/tryout'
import { openMediaFile } from '../storage/mediafile'
import { drain, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')

it('makes a stretch with each of several settings, and says what became of its pictures', async () => {
  mkdirSync(storage, { recursive: true })
  const { rate } = await smallReel(path.join(storage, 'reel.mov'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = { id: 'a', name: 'Bell', in: 20, out: 110, metadata: {} }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, 1)
  const changes = { width: null, height: null, channels: [1, 2], handles: 5 }
  await engine.outlets.save(outlet('view', 'storage', recipe('viewing', changes)))
  await engine.outlets.save(outlet('master', 'storage', recipe('master')))
  await engine.outlets.save(outlet('sound', 'storage', recipe('sound')))
  const key = { timelineId: t.id, regionId: 'a', outletId: 'view' }
  const stretch = { ...key, in: 30, out: 60 }
  const { tryouts } = engine

  const fine = await tryouts.start({ ...stretch, values: { pictureBitrate: 4000 } })
  const poor = await tryouts.start({ ...stretch, values: { pictureBitrate: 150 } })
  const exact = await tryouts.start({ ...stretch, outletId: 'master', values: {} })
  expect([fine.in, fine.out, fine.output.frames]).toEqual([30, 60, 30])
  expect((await tryouts.state(fine.id!)).state).toBe('waiting')
  await drain(engine)
  const made = await Promise.all([fine, poor, exact].map(async (x) => (await tryouts.state(x.id!)).made!))
  const figures = made.map((m) => triedFigures(m.pictures, rate))
  expect(figures[0]!.kilobits).toBeGreaterThan(2 * figures[1]!.kilobits)
  expect(figures[0]!.luma!).toBeGreaterThan(figures[1]!.luma! + 3)
  expect(figures[0]!.similarity).toBeGreaterThan(figures[1]!.similarity)
  // an uncompressed master is what was encoded
  expect(figures[2]).toMatchObject({ luma: null, chroma: null, similarity: 1, worst: { luma: null } })

  // it is the file as it would be delivered: its own reader finds what was said of it
  const file = path.join(engine.folders.cache, `tryout-${fine.id}.mp4`)
  expect(statSync(file).size).toBe(made[0]!.bytes)
  const opened = await openMediaFile(file, 'tryout')
  const track = opened.media!.video[0]!
  expect(track.info.frames).toBe(30)
  const sizes = Array.from({ length: 30 }, (_, n) => track.sample(n).size)
  expect([...made[0]!.pictures.bytes].sort()).toEqual(sizes.sort())
  expect(opened.info.audio[0]!.samples).toBe(30 * 1920)
  await opened.close()
  expect(readdirSync(engine.folders.cache).filter((f) => f.startsWith('making-'))).toEqual([])

  // asked for again it is there; once its file is gone it is made anew
  expect((await tryouts.start({ ...stretch, values: { pictureBitrate: 4000 } })).id).toBe(fine.id)
  expect((await tryouts.state(fine.id!)).state).toBe('made')
  writeFileSync(file, '')
  expect((await tryouts.state(fine.id!)).state).toBe('gone')
  await tryouts.start({ ...stretch, values: { pictureBitrate: 4000 } })
  expect((await tryouts.state(fine.id!)).state).toBe('waiting')
  await tryouts.stop(fine.id!)
  expect((await tryouts.state(fine.id!)).state).toBe('gone')

  // what cannot be made is not begun, and what has nothing to compare is refused
  const odd = await tryouts.start({ ...stretch, values: { channels: [1, 2, 9] } })
  expect([odd.id, odd.output.problems.length > 0]).toEqual([null, true])
  const refused = (more: object) => tryouts.start({ ...stretch, values: {}, ...more }).catch((e: Error) => e.message)
  expect(await refused({ outletId: 'sound' })).toMatch(/no pictures are encoded/)
  expect(await refused({ in: 0, out: 10 })).toMatch(/lies outside the region/)
  expect(await refused({ regionId: 'gone' })).toMatch(/does not go to this outlet/)
  await engine.close()
})

it('says why a stretch could not be made', async () => {
  const engine = await testEngine(folder)
  const [t] = await engine.timelines.list()
  const request = { timelineId: t!.id, regionId: 'a', outletId: 'view', in: 40, out: 50 }
  const { id } = await engine.tryouts.start({ ...request, values: {} })
  writeFileSync(path.join(storage, 'reel.mov'), 'something else')
  await drain(engine)
  const { state, problem } = await engine.tryouts.state(id!)
  expect([state, problem?.code]).toEqual(['failed', 'media.replaced'])
  await engine.close()
})
