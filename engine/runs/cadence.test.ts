import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { bt709 } from '../../core/media/colour'
import { rgbOf } from '../../core/picture/rgb'
import { stillWriting } from '../../core/stills/registry'
import { makeRate } from '../../core/time/rate'
import { drawFrame } from '../../demo/reel'
import { deliver, deliverables, drain, recipe, scratchFolder, smallPlan, testEngine } from '../../tests/fixtures'
import { stillLibrary } from '../storage/stilllibrary'

// Pictures of 24 a second in a run of 25: one in 25 is the one before again, in what is delivered as well.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')

it('is told of a source before the night, and of a coded file from elsewhere', async () => {
  mkdirSync(path.join(storage, 'sea'), { recursive: true })
  const plan = smallPlan()
  const [, png] = stillWriting('png-8')
  for (let n = 0; n < 116; n++) {
    const name = `sea.${String(n).padStart(4, '0')}.png`
    const told = { name, show: 'Sea', date: '', rate: makeRate(25), timecode: '10:00:00:00', position: n, length: 116 }
    const rest = { reel: '', colour: bt709, pixelAspect: '1:1', interlaced: false }
    const picture = rgbOf(drawFrame(plan, Math.floor((n * 24) / 25)))
    writeFileSync(path.join(storage, 'sea', name), await png.write(picture, { ...told, ...rest }, stillLibrary))
  }
  const engine = await testEngine(folder)
  const of = { file: 'sea/sea.[0000-0115].png', range: { in: 0, out: 116 } }
  const made = await deliver(engine, { ...of, name: 'look', by: recipe('viewing', { channels: 'none' }) })
  expect([made.state, made.problem?.message]).toEqual(['done', undefined])
  const [before] = await deliverables(engine)
  const trap = before!.results.find((r) => r.rule.measure === 'cadence')!
  expect([trap.verdict, trap.blocks, trap.source?.text]).toEqual([
    ...['caution', false],
    'one picture in 25 is the one before again (77 frames at 00:00:01:00)',
  ])
  await engine.received.measure({ root: 'storage', path: 'out/look' })
  await drain(engine)
  const results = await engine.received.results({ root: 'storage', path: made.path }, 'open')
  const { verdict, written } = results.find((r) => r.rule.measure === 'cadence')!
  expect([verdict, written?.text]).toEqual(['caution', trap.source?.text])
  await engine.close()
})
