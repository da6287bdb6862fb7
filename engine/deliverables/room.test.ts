import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { scratchName } from '../../core/deliverable/names'
import { keyText } from '../../core/deliverable/outlet'
import { deliver, deliverables, drain, outlet, recipe, scratchFolder, smallReel } from '../../tests/fixtures'
import { Session } from '../session'
import { installationOf } from '../store/settings'

// How much room a night needs of the disks it goes to.

const { folder, remove } = scratchFolder()
let engine: Session

beforeAll(async () => {
  const roots = ['storage', 'second'].map((name) => ({ name, path: path.join(folder, name) }))
  for (const r of roots) mkdirSync(r.path, { recursive: true })
  await smallReel(path.join(folder, 'storage', 'reel.mov'))
  engine = await Session.open({ data: path.join(folder, 'data'), roots, workers: 0 })
})
afterAll(async () => {
  await engine.close()
  remove()
})

const master = recipe('master')
const delivery = { name: 'one', file: 'reel.mov', range: { in: 0, out: 50 }, by: master }
const verdicts = async () =>
  Object.fromEntries(
    (await deliverables(engine)).map((d) => [
      d.outletId,
      d.results.find((r) => r.rule.measure === 'free-room')!.verdict,
    ]),
  )

it('is that of all roots on one disk together, and none for what is there already', async () => {
  const first = await deliver(engine, delivery)
  expect(first.state).toBe('done')
  const [d] = await deliverables(engine)
  const key = { timelineId: d!.timelineId, regionId: d!.regionId }
  for (const [id, root, by] of [
    ['two', 'storage', recipe('master', { gain: -1 })],
    ['three', 'second', recipe('master', { gain: -2 })],
  ] as const) {
    await engine.outlets.save(outlet(id, root, by))
    await engine.outlets.choose([{ ...key, outletId: id }], true)
  }
  await drain(engine)
  const one = d!.output.bytes
  const disk = (files: number, on: (root: string) => number) =>
    vi.spyOn(engine.roots, 'disk').mockImplementation((root) => Promise.resolve({ on: on(root), free: files * one }))
  const apart = (root: string) => (root === 'second' ? 2 : 1)
  // the first is there already, the others need one disk's room for two
  disk(1.5, () => 1)
  expect(await verdicts()).toEqual({ one: 'fail', two: 'fail', three: 'fail' })
  disk(2.1, () => 1)
  expect(await verdicts()).toEqual({ one: 'pass', two: 'pass', three: 'pass' })
  disk(1.1, apart)
  expect(await verdicts()).toEqual({ one: 'pass', two: 'pass', three: 'pass' })
  // who asks for it once more needs room for it as well
  await expect(engine.nights.start('again', 2, [keyText({ ...key, outletId: 'one' })])).rejects.toThrow()
  disk(2.1, apart)
  await engine.nights.start('again', 2, [keyText({ ...key, outletId: 'one' })])
  vi.restoreAllMocks()
  await drain(engine)
})

it('is that of a night that goes on as well, once, less what is written of it', async () => {
  const [d] = await deliverables(engine)
  const key = (outletId: string) => ({ timelineId: d!.timelineId, regionId: d!.regionId, outletId })
  for (const [id, gain] of [
    ['four', -3],
    ['five', -4],
  ] as const)
    await engine.outlets.save(outlet(id, 'storage', recipe('master', { gain })))
  await engine.outlets.choose([key('two'), key('three')], false)
  await engine.outlets.choose([key('four')], true)
  await drain(engine)
  const free = (files: number) =>
    vi.spyOn(engine.roots, 'disk').mockImplementation(() => Promise.resolve({ on: 1, free: files * d!.output.bytes }))
  const run = await engine.nights.start('Night', 2, [keyText(key('four'))])
  await engine.runs.setState(run, 'paused')
  free(1.1)
  expect(await verdicts()).toMatchObject({ four: 'pass' })
  await engine.outlets.choose([key('five')], true)
  await drain(engine)
  free(1.6)
  expect(await verdicts()).toMatchObject({ four: 'fail', five: 'fail' })
  const { id } = (await engine.progress.view(run)).items[0]!
  const scratch = path.join(folder, 'storage', scratchName, await installationOf(engine.db), run, id, 'stills')
  mkdirSync(scratch, { recursive: true })
  writeFileSync(path.join(scratch, 'half'), Buffer.alloc(d!.output.bytes / 2))
  expect(await verdicts()).toMatchObject({ four: 'pass', five: 'pass' })
  // as it stands it is being made: it goes only where it is asked for by name
  const summaries = await engine.deliverables.summaries(await engine.nights.situation())
  expect([...summaries.values()].map((s) => [s.outletId, s.underWay])).toEqual(
    expect.arrayContaining([
      ['four', 'Night'],
      ['five', null],
    ]),
  )
  free(9)
  const next = await engine.nights.start('Next', 2)
  expect((await engine.progress.view(next)).items.map((i) => i.outlet)).toEqual(['five'])
  vi.restoreAllMocks()
  await engine.runs.setState(run, 'running')
  await drain(engine)
  const after = await engine.deliverables.summaries(await engine.nights.situation())
  expect([...after.values()].every((s) => s.underWay === null)).toBe(true)
})

it('is asked for where a run goes on that was stopped, and where frozen files are made again', async () => {
  const [d] = await deliverables(engine)
  const one = d!.output.bytes
  const free = (files: number) =>
    vi.spyOn(engine.roots, 'disk').mockImplementation(() => Promise.resolve({ on: 1, free: files * one }))
  await engine.outlets.save(outlet('six', 'storage', recipe('master', { gain: -5 })))
  await engine.outlets.choose([{ timelineId: d!.timelineId, regionId: d!.regionId, outletId: 'six' }], true)
  await drain(engine)
  const run = await engine.nights.start('Late', 2)
  await engine.runs.setState(run, 'stopped')
  const state = async () => (await engine.progress.list()).find((r) => r.id === run)!.state
  free(0.9)
  await expect(engine.runs.setState(run, 'running')).rejects.toThrow('There is no room for 1 file')
  expect(await state()).toBe('stopped')
  free(1.1)
  await engine.runs.setState(run, 'running')
  const { items } = await engine.progress.view(run)
  await engine.runs.skip(items[0]!.id)
  free(0.9)
  await expect(engine.runs.again(items[0]!.id)).rejects.toThrow('There is no room')
  await expect(engine.runs.repeat(run)).rejects.toThrow('There is no room')
  expect((await engine.progress.view(run)).items[0]!.state).toBe('skipped')
  free(1.1)
  await engine.runs.again(items[0]!.id)
  // what is under way needs its own
  await expect(engine.runs.repeat(run)).rejects.toThrow('There is no room')
  vi.restoreAllMocks()
  await drain(engine)
  expect((await engine.progress.view(run)).items[0]!.state).toBe('done')
})
