import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import type { Recipe } from '../../core/recipe/recipe'
import { openSpec } from '../../core/spec/shipped'
import { makeRate } from '../../core/time/rate'
import { formatTimecode, timecodeToFrames } from '../../core/time/timecode'
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

const outletOf = ({ kind, stillFormat }: Recipe) => (kind === 'sequence' ? stillFormat : kind)

/** Delivers regions of a file by recipes; what is read of each file, by its path. */
async function readingsOf(file: string, regions: Readonly<Record<string, readonly [number, number]>>, by: Recipe[]) {
  const t = await engine.timelines.bringIn({ root: 'storage', path: file })
  const list = Object.entries(regions).map(([id, [from, to]]) => ({ id, name: id, in: from, out: to, metadata: {} }))
  await engine.timelines.saveSplit(t.id, { regions: list, markers: [] }, t.splitVersion)
  const keys = by.flatMap((r) => list.map(({ id }) => ({ timelineId: t.id, regionId: id, outletId: outletOf(r) })))
  for (const r of by)
    await engine.outlets.save(outlet(outletOf(r), 'storage', r, { spec: 'labelled', pattern: '{timeline}_{region}' }))
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

describe('a file of drop-frame labels', () => {
  const base = { rate: makeRate(30000, 1001), dropFrame: true }
  const start = timecodeToFrames(10, 0, 59, 10, base)!
  const untold = 'cannot be said by its format, nor told by its labels'

  it('is told to be, where its format or its labels say so', async () => {
    await smallReel(path.join(storage, 'dropped.mov'), { ...base, start })
    const recipes = [recipe('master'), recipe('sequence'), recipe('sequence', { stillFormat: 'exr-zip' })]
    const read = await readingsOf('dropped.mov', { over: [10, 30], within: [40, 60] }, recipes)
    expect(Object.keys(read)).toHaveLength(6)
    for (const [of, [at, drop, breaks]] of Object.entries(read)) {
      const within = of.includes('within')
      const said = of.endsWith('dpx') && within ? untold : 'drop-frame'
      expect([of, at, drop]).toEqual([of, within ? '10:01:00;22' : '10:00:59;20', said])
      expect(breaks).not.toMatch(/break|begins/)
    }
  })

  it('counts as the list that comes with it, else as non-drop, which is said', async () => {
    const run = (await engine.handover.list()).map((f) => f.path).find((p) => /within.*dpx$/.test(p))!
    const file = { root: 'storage', path: run }
    const alone = await engine.timelines.bringIn(file)
    expect([alone.model.dropFrame, alone.problems.map((p) => p.code)]).toEqual([false, ['timeline.drop-untold']])
    const cuts = path.join(storage, 'cuts.edl')
    const event = '001 AX V C 00:00:00:00 00:00:00:10 10:01:00;24 10:01:01;04'
    writeFileSync(cuts, `TITLE: Bell\nFCM: DROP FRAME\n${event}\n`)
    const { model, problems } = await engine.timelines.bringIn(file, {
      ...{ name: 'listed', cuts: { root: 'storage', path: 'cuts.edl' } },
    })
    expect([model.dropFrame, formatTimecode(model.start, model)]).toEqual([true, '10:01:00;22'])
    expect(model.events[0]!.record).toEqual({ in: 2, out: 12 })
    expect(problems.map((p) => p.code)).toEqual(['timeline.length'])
  })
})
