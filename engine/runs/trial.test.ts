import { existsSync, mkdirSync, readFileSync, readdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
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

// Trials: made to be looked at, and taken by nobody for the delivery.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')

it('goes into a folder of its own, is no part of what an outlet gets, and keeps nothing from being made', async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = (id: string, name: string, from: number) => ({ id, name, in: from, out: from + 10, metadata: {} })
  const regions = [region('a', 'Bell', 20), region('b', 'Chain', 40)]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const screening = outlet('screen', 'storage', recipe('viewing', { width: 320, height: 180, channels: [1, 2] }))
  await engine.outlets.save({ ...screening, spec: 'osprey' })
  const keys = regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'screen' }))
  await engine.outlets.choose(keys, true)
  await engine.outlets.override([keys[0]!], { trial: 'half' }, [])
  await drain(engine)
  const [bell, chain] = await deliverables(engine)
  expect(bell!.path).toBe('out/screen/Trials/01_Bell.mp4')
  expect(bell!.output.video).toMatchObject({ width: 160, height: 90 })
  const trap = bell!.results.find((r) => r.rule.measure === 'trial')!
  expect([trap.verdict, trap.why]).toEqual(['caution', 'Trial: half size; required: no.'])
  expect(trap.fix).toMatchObject({ label: 'Trial half size → no', overrides: { trial: 'no' } })
  // the recipient wants another raster, of both: that keeps the delivery back, and not the trial
  const raster = [bell, chain].map((d) => d!.results.find((r) => r.rule.measure === 'raster')!.verdict)
  expect(raster).toEqual(['caution', 'fail'])
  expect([bell!.cleared, chain!.cleared]).toEqual([true, false])
  await engine.outlets.save(screening)
  await drain(engine)
  await engine.nights.start('night', 2)
  await drain(engine)
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(2).fill(['done', '']))
  expect(existsSync(path.join(storage, 'out/screen/Trials/01_Bell.mp4'))).toBe(true)
  const finished = await engine.handover.list()
  expect(finished.map((f) => [f.path, f.trial, f.verdict]).sort()).toEqual([
    ['out/screen/02_Chain.mp4', false, 'pass'],
    ['out/screen/Trials/01_Bell.mp4', true, 'caution'],
  ])
  const reports = readdirSync(path.join(storage, 'out/screen')).filter((f) => f.endsWith('.json'))
  const report = JSON.parse(readFileSync(path.join(storage, 'out/screen', reports[0]!), 'utf8')) as {
    files: { path: string }[]
  }
  expect(report.files.map((f) => f.path)).toEqual(['out/screen/02_Chain.mp4'])
  // in earnest it is made anew: what was a trial was no delivery of it
  await engine.outlets.override([keys[0]!], {}, ['trial'])
  const summaries = (await engine.live.list()).list
  expect(summaries.map((d) => [d.regionId, d.path, d.became?.path ?? null])).toEqual([
    ['a', 'out/screen/01_Bell.mp4', null],
    ['b', 'out/screen/02_Chain_v02.mp4', 'out/screen/02_Chain.mp4'],
  ])
  await engine.close()
})
