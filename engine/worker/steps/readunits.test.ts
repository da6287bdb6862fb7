import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { line, pictureWith } from '../../../core/media/captions/samples'
import { judgeDraft, nothingKnown } from '../../../core/deliverable/judged'
import { keyText } from '../../../core/deliverable/outlet'
import type { Recipe } from '../../../core/recipe/recipe'
import { openSpec } from '../../../core/spec/shipped'
import { film } from '../../../tests/film'
import { deliverables, drain, latestRun, outlet, recipe, scratchFolder, testEngine } from '../../../tests/fixtures'
import type { Session } from '../../session'

// What coded pictures say is read when a file is brought in, and told of what is made from it before that is made.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const range = { in: 2, out: 9 }
let engine: Session

/** A message in front of the first slice of a picture: what the shared sample has before what stands for one. */
function withCaptions(unit: Uint8Array, n: number): Uint8Array {
  if (n < 5) return unit
  const said = pictureWith([n === 5 ? line(0, 0x14, 0x25) : line(0, 0x41, 0x42)], true, []).subarray(0, -3)
  const at = Buffer.from(unit).indexOf(Uint8Array.of(0, 0, 1, 0x65))
  return Uint8Array.from([...unit.subarray(0, at), ...said, ...unit.subarray(at)])
}

/** The first slice of one picture says that it is predicted from another (SP, H.264 table 7-6). */
function withOneLeaning(unit: Uint8Array, n: number): Uint8Array {
  const at = Buffer.from(unit).indexOf(Uint8Array.of(0, 0, 1, 0x65, 0x88))
  return n === 7 ? unit.map((v, i) => (i === at + 4 ? 0x89 : v)) : unit
}

/** Recipients who want captions, and pictures that are each coded by itself. */
const rules = [
  { id: 'captions', measure: 'captions', severity: 'must', expect: { includes: ['CC1'] }, clause: '1' },
  { id: 'intra', measure: 'intra', severity: 'must', expect: { equals: true }, clause: '2' },
] as const
const wanting = (...ids: readonly string[]) => ({
  ...openSpec,
  ...{
    id: `wants-${ids.join('-')}`,
    name: `Wants ${ids.join(' and ')}`,
    rules: rules.filter((r) => ids.includes(r.id)),
  },
})

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  writeFileSync(
    path.join(storage, 'captioned.mxf'),
    await film({ codec: 'h264-intra', coded: withCaptions, more: 200 }),
  )
  writeFileSync(path.join(storage, 'leaning.mxf'), await film({ codec: 'h264-intra', coded: withOneLeaning }))
  engine = await testEngine(folder)
  for (const ids of [['captions'], ['intra']]) await engine.outlets.saveSpec(wanting(...ids))
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** What is said of a region of a file by a recipe, before and after its pictures were read; it is not made. */
async function forecast(file: string, by: Recipe, spec: string) {
  const t =
    (await engine.timelines.list()).find((x) => x.file.path === file) ??
    (await engine.timelines.bringIn({ root: 'storage', path: file }))
  if (t.split.regions.length === 0)
    await engine.timelines.saveSplit(
      t.id,
      { regions: [{ id: 'r', name: 'Fog Bell', ...range, metadata: {} }], markers: [] },
      t.splitVersion,
    )
  const id = `${by.kind}-${spec}`
  await engine.outlets.save(outlet(id, 'storage', by, { spec }))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: id }], true)
  const of = async () => {
    const d = (await deliverables(engine)).find((x) => x.outletId === id && x.timelineId === t.id)!
    const said = (measure: string) => d.results.find((r) => r.rule.measure === measure)
    return { d, said }
  }
  const before = await of()
  await drain(engine)
  return { before, after: await of() }
}
const viewing = recipe('viewing', { channels: 'none' })
const rewrap = recipe('rewrap', { container: 'mxf' })

it('captions that begin late in coded pictures are said to be lost, and not before these were read', async () => {
  const { before, after } = await forecast('captioned.mxf', viewing, 'wants-captions')
  expect(before.said('data-kept')).toMatchObject({ verdict: 'unmeasured' })
  expect(before.said('data-kept')!.why).toContain('its coded pictures are still being read')
  expect(after.said('data-kept')).toMatchObject({ verdict: 'caution' })
  expect(after.said('data-kept')!.why).toContain('CEA-708 captions in its pictures')
  expect(after.said('captions')).toMatchObject({ verdict: 'fail', blocks: true })
  expect(after.d.cleared).toBe(false)
})

it('they are kept by a copy, of which only the file says which captions it has', async () => {
  const { after } = await forecast('captioned.mxf', rewrap, 'wants-captions')
  expect([after.said('data-kept')!.verdict, after.said('captions')!.verdict]).toEqual(['pass', 'later'])
  const { id } = (await engine.timelines.list()).find((x) => x.file.path === 'captioned.mxf')!
  await engine.nights.start('copy', 2, [keyText({ timelineId: id, regionId: 'r', outletId: after.d.outletId })])
  await drain(engine)
  const [item] = (await latestRun(engine)).items
  expect([item!.state, item!.verdict, item!.problem]).toEqual(['done', 'pass', null])
})

it('a copy of pictures that are read as coded each by itself is known to pass before it is made', async () => {
  const { before, after } = await forecast('captioned.mxf', rewrap, 'wants-intra')
  expect([before.said('intra')!.verdict, after.said('intra')!.verdict, after.d.cleared]).toEqual(['pass', 'pass', true])
})

it('where one leans on another though the container says none does, a copy waits for somebody to look', async () => {
  const { before, after } = await forecast('leaning.mxf', rewrap, 'wants-intra')
  expect([before.d.undecided, before.said('intra')!.verdict]).toEqual([true, 'unmeasured'])
  expect([after.d.undecided, after.d.cleared]).toEqual([false, false])
  expect(after.said('intra')).toMatchObject({ verdict: 'unmeasured', blocks: true })
  expect(after.said('intra')!.why).toContain('1 picture of the source')
})

it('where they could not be read, it is said why', async () => {
  const { draft } = (await engine.nights.judged()).find((j) => j.draft.outlet.id === 'rewrap-wants-intra')!
  const units = { code: 'disk.gone', message: 'The disk is gone.' }
  const judged = judgeDraft(draft, { ...nothingKnown({ path: 'x', version: 1, bad: null }), units })
  const rule = judged.results.find((r) => r.rule.id === 'intra')!
  expect([judged.cleared, rule.verdict]).toEqual([false, 'unmeasured'])
  expect(rule.why).toContain('its coded pictures were not read (The disk is gone)')
})
