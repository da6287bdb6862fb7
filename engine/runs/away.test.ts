import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, workHere } from '../../tests/fixtures'
import { Roots } from '../storage/roots'
import { asideFor } from '../worker/aside'
import { Session } from '../session'

// A storage root whose drive is taken away leaves its mount point: an empty folder under the same name.

const { folder, remove } = scratchFolder()
const at = (name: string) => path.join(folder, name)
let engine: Session

function take(name: string): void {
  renameSync(at(name), at(`${name} on the shelf`))
  mkdirSync(at(name))
}
function bring(name: string): void {
  rmSync(at(name), { recursive: true })
  renameSync(at(`${name} on the shelf`), at(name))
}

beforeAll(async () => {
  for (const name of ['storage', 'disk']) mkdirSync(at(name))
  await smallReel(path.join(at('storage'), 'reel.mov'))
  engine = await Session.open({ data: at('data'), roots: [at('storage'), at('disk')], workers: 0 })
  await engine.outlets.save(outlet('near', 'storage', recipe('sound')))
  await engine.outlets.save(outlet('far', 'disk', recipe('viewing')))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  await engine.timelines.saveSplit(
    t.id,
    { regions: [{ id: 'r', name: 'Fog Bell', in: 0, out: 120, metadata: {} }], markers: [] },
    1,
  )
  for (const outletId of ['near', 'far'])
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId }], true)
  await drain(engine)
})
afterAll(async () => {
  await engine.close()
  remove()
})

const items = async () => new Map((await latestRun(engine)).items.map((i) => [i.outlet, i]))

it('is waited for: nothing is written below its mount point, everything else is made', async () => {
  await engine.nights.start('Night', 2, null)
  const far = async () => (await items()).get('far')!
  await workHere(
    engine,
    1,
    stopWhen(async () => (await far()).framesDone > 0),
  )
  take('disk')
  await drain(engine)
  expect([...(await items())].map(([name, i]) => [name, i.state])).toEqual([
    ['near', 'done'],
    ['far', 'running'],
  ])
  expect((await far()).doing).toMatch(/^waiting: The storage root “disk” is not the folder that it was/)
  expect(readdirSync(at('disk'))).toEqual([])
  await engine.away.look()
  expect((await far()).state).toBe('running')
  bring('disk')
  await engine.away.look()
  await drain(engine)
  expect([(await latestRun(engine)).state, (await far()).state]).toEqual(['done', 'done'])
  expect(existsSync(path.join(at('disk'), (await far()).path))).toBe(true)
  expect(readdirSync(at('disk')).filter((f) => f.startsWith('.'))).toEqual([])
})

it('is said in the checks while it is away', async () => {
  take('disk')
  const judged = await engine.nights.judged()
  const blocked = judged.map((d) => [d.draft.outlet.id, d.cleared, d.results.filter((r) => r.blocks).map((r) => r.why)])
  expect(blocked).toEqual([
    ['near', true, []],
    ['far', false, [expect.stringContaining('is not the folder that it was'), expect.stringContaining('Free room')]],
  ])
  bring('disk')
  expect((await engine.nights.judged()).map((d) => d.cleared)).toEqual([true, true])
})

it('is given up after a time, with a failure that can be run again', async () => {
  // time is this test's own: a look by the clock in between would count from another beginning
  engine.away.stop()
  await engine.nights.start('Second night', 2, [...(await keys('far'))])
  take('disk')
  await drain(engine)
  await engine.away.look(0)
  await engine.away.look(119 * 60_000)
  expect((await items()).get('far')!.state).toBe('running')
  await engine.away.look(120 * 60_000)
  const far = (await items()).get('far')!
  expect([far.state, far.problem?.code]).toEqual(['failed', 'root.away'])
  expect(far.problem?.message).toMatch(/It was waited for 120 minutes\.$/)
  bring('disk')
  await engine.runs.again(far.id)
  await drain(engine)
  expect((await latestRun(engine)).state).toBe('done')
})

it('that holds the source is waited for as well', async () => {
  await engine.nights.start('Third night', 2, [...(await keys('far'))])
  take('storage')
  await drain(engine)
  expect((await items()).get('far')!.doing).toMatch(/^waiting: The storage root “storage”/)
  bring('storage')
  await engine.away.look()
  await drain(engine)
  expect((await items()).get('far')!.state).toBe('done')
})

it('that only stumbled is tried again, some times', () => {
  const claim = (stumbles: number) => ({ stumbles }) as Parameters<typeof asideFor>[2]
  const stale = Object.assign(new Error('stale file handle'), { code: 'ESTALE' })
  const roots = new Roots([at('storage')])
  expect(asideFor(roots, ['storage'], claim(4), stale)).toMatchObject({ roots: ['storage'] })
  expect(asideFor(roots, ['storage'], claim(5), stale)).toBeNull()
  expect(asideFor(roots, ['storage'], claim(0), new Error('bad picture'))).toBeNull()
  expect(asideFor(roots, ['storage', 'gone'], claim(9), new Error('x'))?.problem.code).toBe('root.away')
})

async function keys(name: string): Promise<string[]> {
  const judged = await engine.nights.judged()
  return judged
    .filter((d) => d.draft.outlet.id === name)
    .map(({ draft: { key: k } }) => [k.timelineId, k.regionId, k.outletId].join('/'))
}

/** Asked again and again by a worker: true from when a question was answered with yes. */
function stopWhen(question: () => Promise<boolean>): () => boolean {
  let yes = false
  const ask = async () => {
    while (!(yes ||= await question())) await new Promise((r) => setTimeout(r, 5))
  }
  void ask()
  return () => yes
}
