import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { pictureCodecs } from '../../core/codec/registry'
import { containers } from '../../core/container/registry'
import { isPictureFile, isTimelineFile, timelineEndings } from '../../core/files/kinds'
import { measures } from '../../core/measure/registry'
import { recipeKinds, recipeSchema } from '../../core/recipe/registry'
import { rangesBy, splitMakers } from '../../core/split/makers/registry'
import { ruleSchema, specSchema } from '../../core/spec/spec'
import { formats, readInterchange, writeInterchange } from '../../core/timeline/formats/registry'
import { drain, latestRun, outlet, scratchFolder, testEngine } from '../fixtures'
import { grey, halves, letters, saying, toyRecipe, toys } from './toys'

// Each kind of thing is plugged in by one line, and works from the file on disk to the proven file.

pictureCodecs.push(grey)
containers.push(toys)
recipeKinds.push(toyRecipe)
measures.push(letters)
formats.push(saying)
splitMakers.push(halves)

const { folder, remove } = scratchFolder()
afterAll(remove)

it('container, codec, recipe, measure and way to split: from a file brought in to one handed over', async () => {
  mkdirSync(path.join(folder, 'storage'))
  const frames = Array.from({ length: 20 }, (_, n) => 40 + 8 * n)
  writeFileSync(path.join(folder, 'storage', 'sea.toys'), Buffer.from([...Buffer.from('TOYS'), 16, 16, ...frames]))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'sea.toys' })
  expect([t.info.container, t.info.video[0]!.codec, t.model.length]).toEqual(['toys', 'grey', 20])
  const regions = rangesBy('halves', { timeline: t.model }).map((r, i) => ({ id: `r${i}`, ...r, metadata: {} }))
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const rule = { id: 'short', measure: 'letters', severity: 'must', expect: { max: 4 }, clause: '1' } as const
  const spec = {
    format: 'velvet-crane-spec/1',
    id: 'toy',
    name: 'Toy',
    recipient: '',
    issued: '',
    rules: [rule],
  } as const
  await engine.outlets.saveSpec(specSchema.parse(spec))
  await engine.outlets.save(outlet('play', 'storage', recipeSchema.parse(toyRecipe.shipped), { spec: 'toy' }))
  await engine.outlets.choose(
    regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'play' })),
    true,
  )
  await drain(engine)
  await engine.nights.start('toys', 2)
  await drain(engine)
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.path, i.state, i.verdict])).toEqual([
    ['out/play/01_first_half.toys', 'done', 'pass'],
    ['out/play/02_second_half.toys', 'done', 'pass'],
  ])
  const made = readFileSync(path.join(folder, 'storage', 'out/play/02_second_half.toys'))
  expect([...made.subarray(0, 6)]).toEqual([...Buffer.from('TOYS'), 16, 16])
  expect([...made.subarray(6)]).toEqual(frames.slice(10))
  const finished = await engine.handover.one((await engine.handover.list())[0]!.id)
  expect(finished!.proof.results.find((r) => r.rule.id === 'short')).toMatchObject({
    verdict: 'pass',
    required: 'at most 4 letters',
    written: { value: 4, text: '4 letters' },
  })
  await engine.close()
})

it('an interchange format: read, written, and offered wherever files are', () => {
  const read = readInterchange('SAY 250', 'sea.say')
  expect([read.format, read.timeline.length]).toEqual(['say', 250])
  expect(writeInterchange(read, 'say').text).toBe('SAY 250')
  expect([isTimelineFile('a.say'), isPictureFile('a.toys')]).toEqual([true, true])
  expect(timelineEndings()).toEqual(expect.arrayContaining(['.say', '.toys']))
})

it('what is not plugged in is refused by name', () => {
  expect(recipeSchema.safeParse({ ...toyRecipe.shipped, kind: 'dream' }).success).toBe(false)
  expect(
    ruleSchema.safeParse({ id: 'x', measure: 'dreams', severity: 'must', expect: { max: 1 }, clause: '' }).success,
  ).toBe(false)
  expect(() => rangesBy('dreams', { timeline: {} as never })).toThrow('no way to split called “dreams”')
  expect(() => writeInterchange({ timeline: {} as never }, 'dreams')).toThrow('no format called “dreams”')
})
