import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import type { Recipe } from '../../core/recipe/recipe'
import { openSpec } from '../../core/spec/shipped'
import { makeRate } from '../../core/time/rate'
import { timecodeToFrames } from '../../core/time/timecode'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'

// Labels that begin anew or are left out within a file: over midnight, and where labels are dropped.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session

/** What is asked of each file: who delivers by these rules gets what they say. */
const labelled = {
  ...openSpec,
  ...{ id: 'labelled', name: 'Labelled' },
  rules: (['start-timecode', 'drop-frame', 'timecode-breaks'] as const).map((measure) => ({
    ...{ id: measure, measure, severity: 'should' as const, expect: { equals: 'anything' }, clause: '1' },
  })),
}

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  engine = await testEngine(folder)
  await engine.outlets.saveSpec(labelled)
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** Delivers regions of a file by recipes; what is read of each file, by its path. */
async function readingsOf(file: string, regions: Readonly<Record<string, readonly [number, number]>>, by: Recipe[]) {
  const t = await engine.timelines.bringIn({ root: 'storage', path: file })
  const list = Object.entries(regions).map(([id, [from, to]]) => ({ id, name: id, in: from, out: to, metadata: {} }))
  await engine.timelines.saveSplit(t.id, { regions: list, markers: [] }, t.splitVersion)
  const keys = by.flatMap((r) => list.map(({ id }) => ({ timelineId: t.id, regionId: id, outletId: r.kind })))
  for (const r of by) await engine.outlets.save(outlet(r.kind, 'storage', r, { spec: 'labelled' }))
  await engine.outlets.choose(keys, true)
  await engine.timelines.media.look()
  await drain(engine)
  await engine.nights.start(file, 2, keys.map(keyText))
  await drain(engine)
  const { items } = await latestRun(engine)
  const read: Record<string, (string | undefined)[]> = {}
  for (const { id, path: made, state, problem } of items) {
    expect([made, state, problem]).toEqual([made, 'done', null])
    const { proof } = (await engine.handover.one(id))!
    read[made] = labelled.rules.map(({ id: rule }) => proof.results.find((r) => r.rule.id === rule)!.written?.text)
  }
  return read
}

describe('a region over midnight, and one behind it', () => {
  const rate = makeRate(25)
  const start = timecodeToFrames(23, 59, 59, 0, { rate, dropFrame: false })!

  it('is labelled on from the day before, without a break', async () => {
    await smallReel(path.join(storage, 'evening.mov'), { pictures: 'v210', start })
    const recipes = [recipe('master'), recipe('mpeg2'), recipe('d10'), recipe('sequence')]
    const read = await readingsOf('evening.mov', { over: [20, 35], behind: [30, 50] }, recipes)
    expect(Object.keys(read)).toHaveLength(8)
    for (const [of, [at, drop, breaks]] of Object.entries(read)) {
      expect([of, at, drop]).toEqual([of, of.includes('over') ? '23:59:59:20' : '00:00:00:05', 'non-drop'])
      expect(breaks).not.toMatch(/break|begins/)
    }
  })
})
