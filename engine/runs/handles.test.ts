import { mkdirSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { openPictures } from '../../core/codec/pictures'
import { openMedia } from '../../core/container/registry'
import { sheetSchema } from '../../core/deliverable/sheet'
import { readCounter } from '../../demo/reel'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import { openFile } from '../storage/disk'
import { machineCodecs } from '../worker/codecs'

// Regions with handles: what is written, where its timecode begins, what the sheet says of it.

const { folder, remove } = scratchFolder()
afterAll(remove)

it('delivers frames before and after a region, as many as the timeline has, and counts from the region', async () => {
  const storage = path.join(folder, 'storage')
  mkdirSync(storage, { recursive: true })
  const plan = await smallReel(path.join(storage, 'reel.mov'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = [
    { id: 'a', name: 'Head', in: 5, out: 40, metadata: {} },
    { id: 'b', name: 'Middle', in: 50, out: 80, metadata: {} },
  ]
  await engine.timelines.saveSplit(t.id, { regions, markers: [{ id: 'm', at: 60, name: 'Bell' }] }, 1)
  await engine.outlets.save(outlet('copy', 'storage', recipe('rewrap', { handles: 12 })))
  await engine.outlets.save(
    outlet('view', 'storage', recipe('viewing', { handles: 12, start: '10:00:00:00', channels: 'none' })),
  )
  const keys = (outletId: string) => regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId }))
  for (const o of ['copy', 'view']) await engine.outlets.choose(keys(o), true)
  await drain(engine)
  const { list } = await engine.live.list()
  expect(list.map((d) => d.length)).toEqual(['0:00:02:02', '0:00:02:02', '0:00:02:04', '0:00:02:04'])
  await engine.nights.start('night', 2)
  await drain(engine)
  const run = (await latestRun(engine))!
  expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(4).fill(['done', '']))
  const written = async (file: string) => {
    const source = await openFile(path.join(storage, file))
    const media = await openMedia(source)
    const numbers: (number | null)[] = []
    const all = { in: 0, out: media.video[0]!.info.frames }
    for await (const { picture } of openPictures(media, machineCodecs()).read(all))
      numbers.push(readCounter(picture.planes[0], picture.width))
    await source.close()
    return { numbers, start: media.info.timecode!.start, frames: media.info.timecode!.startFrames, media }
  }
  const middle = await written('out/copy/02_Middle.mov')
  expect(middle.numbers).toEqual(Array.from({ length: 54 }, (_, i) => 38 + i))
  expect(middle.frames).toBe(plan.start + 38)
  expect(middle.media.info.chapters.map((c) => [c.name, (c.at * 25) / c.timescale])).toEqual([['Bell', 22]])
  // the timeline has five frames before the first region
  const head = await written('out/view/01_Head.mp4')
  expect(head.numbers).toEqual(Array.from({ length: 52 }, (_, i) => i))
  expect(head.start).toBe('09:59:59:20')
  const sheet = sheetSchema.parse(JSON.parse(readFileSync(path.join(engine.folders.runs, `${run.id}.json`), 'utf8')))
  expect(sheet.deliverables.map((d) => [d.region.in, d.region.out, d.region.handles])).toEqual([
    [0, 52, { before: 5, after: 12 }],
    [0, 52, { before: 5, after: 12 }],
    [38, 92, { before: 12, after: 12 }],
    [38, 92, { before: 12, after: 12 }],
  ])
  // changed since: the first region; run again as it was, it is what it was
  const now = await engine.timelines.get(t.id)
  const shorter = now.split.regions.map((r) => (r.id === 'a' ? { ...r, out: 38 } : r))
  await engine.timelines.saveSplit(t.id, { ...now.split, regions: shorter.slice(0, 1) }, now.splitVersion)
  await drain(engine)
  expect((await engine.nights.since(run.id)).map((d) => [d.last, d.changed])).toEqual([
    ['10:01:01:01', ['out']],
    ['10:01:01:01', ['out']],
    ['10:01:02:16', null],
    ['10:01:02:16', null],
  ])
  const repeated = await engine.progress.view(await engine.runs.repeat(run.id))
  await drain(engine)
  expect(repeated.name).toBe('night, again')
  expect((await engine.progress.view(repeated.id)).items.map((i) => [i.state, i.path])).toEqual([
    ['done', 'out/copy/01_Head_v02.mov'],
    ['done', 'out/view/01_Head_v02.mp4'],
    ['done', 'out/copy/02_Middle_v02.mov'],
    ['done', 'out/view/02_Middle_v02.mp4'],
  ])
  expect((await written('out/copy/01_Head_v02.mov')).numbers).toEqual(head.numbers)
  await engine.close()
})
