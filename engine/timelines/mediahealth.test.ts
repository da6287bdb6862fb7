import { createHash } from 'node:crypto'
import { chmodSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Deliverable } from '../../contract/deliverables'
import { deliverables, drain, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { changesAfter, lastChange } from '../store/changes'

// Media that goes, is replaced or is not what a list says after it was brought in: found before a night, not in it.

const { folder, remove } = scratchFolder()
const there = (name: string) => path.join(folder, 'storage', 'cards', name)
let engine: Session

beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage', 'cards'), { recursive: true })
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

const md5 = (file: string) => createHash('md5').update(readFileSync(file)).digest('hex')
const possible = (d: Deliverable) => d.results.find((r) => r.rule.measure === 'possible')!

/** The one deliverable of a reel, as it is after a look at its media. */
async function now(): Promise<Deliverable> {
  await engine.timelines.media.look()
  await drain(engine)
  await engine.timelines.media.look()
  return (await deliverables(engine))[0]!
}

it('says what is gone or replaced at the checks, and clears it again when it is back', async () => {
  const [reel, aside] = [there('reel.mov'), there('aside.mov')]
  await smallReel(reel)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'cards/reel.mov' })
  const regions = [{ id: 'r', name: 'Fog Bell', in: 0, out: 50, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, t.splitVersion)
  await engine.outlets.save(outlet('o', 'storage', recipe('sound')))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
  await drain(engine)
  await deliverables(engine)
  await drain(engine)
  const well = await now()
  expect([possible(well).verdict, well.cleared]).toEqual(['pass', true])
  renameSync(reel, aside)
  const gone = await now()
  expect([gone.cleared, possible(gone).verdict]).toEqual([false, 'fail'])
  expect(possible(gone).why).toContain('cards/reel.mov')
  await smallReel(reel, { bitrate: 400_000 })
  expect(possible(await now()).why).toContain('has changed since it was brought in')
  renameSync(aside, reel)
  expect((await now()).cleared).toBe(true)
})

it('holds it against lists of checksums beside it, once for each of what they say', async () => {
  const list = there('reel.md5')
  writeFileSync(list, `${md5(there('reel.mov'))}  reel.mov\n`)
  expect((await now()).cleared).toBe(true)
  writeFileSync(list, `${'0'.repeat(32)}  reel.mov\n`)
  const other = await now()
  expect([other.cleared, possible(other).why]).toEqual([
    false,
    expect.stringContaining('it has not the MD5 of reel.mov in reel.md5'),
  ])
  const [t] = await engine.timelines.list()
  expect(await engine.timelines.mediaProblem(t!)).toMatchObject({ code: 'media.other-sum', where: 'cards/reel.mov' })
  rmSync(list)
  expect((await now()).cleared).toBe(true)
})

it('says that a list beside it cannot be read', async () => {
  const list = there('reel.md5')
  writeFileSync(list, '')
  chmodSync(list, 0)
  const sealed = await now()
  chmodSync(list, 0o644)
  rmSync(list)
  // whoever may read everything reads this as well
  expect(sealed.cleared).toBe(process.getuid?.() === 0)
})

it('tells that a timeline has changed when something else is wrong with it, and only then', async () => {
  await now()
  const from = await lastChange(engine.db)
  const told = async () => (await changesAfter(engine.db, from))!.filter((c) => c.topic === 'timelines').length
  await engine.timelines.media.look()
  expect(await told()).toBe(0)
  renameSync(there('reel.mov'), there('aside.mov'))
  await engine.timelines.media.look()
  await engine.timelines.media.look()
  expect(await told()).toBe(1)
  renameSync(there('aside.mov'), there('reel.mov'))
})

it('keeps a night from beginning with what went a moment ago', async () => {
  await now()
  renameSync(there('reel.mov'), there('aside.mov'))
  await expect(engine.nights.start('x', 2)).rejects.toMatchObject({ problem: { code: 'run.empty' } })
  renameSync(there('aside.mov'), there('reel.mov'))
})

it('clears nothing while a file is being held against them, and has a night wait for it', async () => {
  const list = there('reel.sha256')
  writeFileSync(
    list,
    `${createHash('sha256')
      .update(readFileSync(there('reel.mov')))
      .digest('hex')}  reel.mov\n`,
  )
  await engine.timelines.media.look()
  const [waits] = await deliverables(engine)
  expect([waits!.cleared, waits!.pending, waits!.undecided, possible(waits!).verdict]).toEqual([
    false,
    true,
    true,
    'unmeasured',
  ])
  expect(possible(waits!).why).toContain('still being held against the checksums beside it')
  const [t] = await engine.timelines.list()
  expect(await engine.timelines.mediaProblem(t!)).toBeNull()
  // a step that was lost is asked for again
  await engine.db.deleteFrom('step').execute()
  await engine.timelines.media.look()
  const starting = engine.nights.start('waited', 2)
  await drain(engine)
  const run = await starting
  expect((await engine.runs.frozen(run)).map((d) => d.region.name)).toEqual(['Fog Bell'])
})
