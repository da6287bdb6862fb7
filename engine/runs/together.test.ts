import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { mainFile } from '../../core/deliverable/proof'
import { keyText } from '../../core/deliverable/outlet'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'

// Deliverables of one region are made together: its pictures are read once. What comes out is what each gives alone.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const outlets = ['master', 'small', 'marked', 'sound']
let engine: Session
let keys: { timelineId: string; regionId: string; outletId: string }[]

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  engine = await testEngine(folder)
  const small = recipe('viewing', { width: 320, height: 180, pictureBitrate: 400 })
  await engine.outlets.save(outlet('master', 'storage', recipe('master')))
  await engine.outlets.save(outlet('small', 'storage', small))
  await engine.outlets.save(outlet('marked', 'storage', { ...small, burnTimecode: true }))
  await engine.outlets.save(outlet('sound', 'storage', recipe('sound')))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = [{ id: 'r', name: 'r', in: 3, out: 117, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  keys = outlets.map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId }))
  await engine.outlets.choose(keys, true)
  await drain(engine)
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** Starts deliverables and works until they are done; the sums of the files by outlet. */
async function night(chosen: readonly (typeof keys)[number][]): Promise<Map<string, string>> {
  const run = await engine.nights.start('night', 2, chosen.map(keyText))
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => [i.state, i.problem])).toEqual(items.map(() => ['done', null]))
  const out = new Map<string, string>()
  for (const h of await engine.handover.list()) {
    const one = (await engine.handover.one(h.id))!
    if (one.run === run) out.set(h.outletId, mainFile(one.proof).sums.sha256!)
  }
  return out
}

/** When each step that makes pictures was taken, by outlet. */
async function taken(): Promise<Map<string, (number | null)[]>> {
  const { id } = await latestRun(engine)
  const rows = await engine.db
    .selectFrom('step')
    .innerJoin('deliverable', 'deliverable.id', 'step.deliverable_id')
    .select(['step.started', 'deliverable.outlet_id as outlet'])
    .where('step.run_id', '=', id)
    .where('step.key', 'like', 'segment-%')
    .orderBy('step.id')
    .execute()
  return new Map(outlets.map((o) => [o, rows.filter((r) => r.outlet === o).map((r) => r.started)]))
}

it('takes the same stretch for all at once, and makes of it what each gives alone', async () => {
  const together = await night(keys)
  const at = await taken()
  expect(at.get('sound')).toEqual([])
  // one moment later at most: those that share are claimed right after the first
  at.get('master')!.forEach((first, i) => {
    for (const o of ['small', 'marked']) expect(at.get(o)![i]! - first!).toBeLessThan(100)
  })
  const alone = new Map<string, string>()
  for (const key of keys) for (const [outletId, sum] of await night([key])) alone.set(outletId, sum)
  // the sound file says when it was made, and the H.264 encoder never gives the same bytes twice: the proof judges them
  expect(together.get('master')).toBe(alone.get('master'))
  expect([together.size, alone.size]).toEqual([4, 4])
})

it('goes on with the others when one is skipped while they are made', async () => {
  const run = await engine.nights.start('skipped', 2, keys.map(keyText))
  const { items } = await engine.progress.view(run)
  const { id } = items.find((i) => i.outlet === 'small')!
  const working = drain(engine)
  await engine.runs.skip(id)
  await working
  const after = (await engine.progress.view(run)).items.map((i) => [i.outlet, i.state])
  expect(after).toEqual(outlets.map((o) => [o, o === 'small' ? 'skipped' : 'done']))
})
