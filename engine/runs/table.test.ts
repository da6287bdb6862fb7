import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Picture } from '../../core/picture/picture'
import { rgbOf } from '../../core/picture/rgb'
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
import type { Session } from '../session'
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from '../worker/codecs'

// Pictures through look-up tables of the shelf.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { pictures: 'v210', bitrate: 0 })
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** Darker, with less of red: straight in each, so that any number of points gives the same. */
const look = ([r, g, b]: readonly number[]) => [0.7 * r! + 0.1 * g!, 0.8 * g!, 0.9 * b! + 0.05]
const cube = () => {
  const points: string[] = []
  for (let b = 0; b < 9; b++)
    for (let g = 0; g < 9; g++) for (let r = 0; r < 9; r++) points.push(look([r / 8, g / 8, b / 8]).join(' '))
  return `TITLE "Lamplight"\nLUT_3D_SIZE 9\n${points.join('\n')}\n`
}

async function frameOf(file: string, n: number): Promise<Picture> {
  const opened = await openMediaFile(path.join(storage, file), file)
  try {
    for await (const { picture } of opened.pictures(machineCodecs()).read({ in: n, out: n + 1 })) return picture
    throw new Error('no picture')
  } finally {
    await opened.close()
  }
}

it('are added once, known by what is in them, and stay while something goes by them', async () => {
  const table = await engine.outlets.saveTable('lamp.cube', cube())
  expect(table).toMatchObject({ name: 'Lamplight', shape: '9³' })
  expect(table.id).toMatch(/^lamplight-[0-9a-f]{12}$/)
  await engine.outlets.saveTable('again.cube', cube())
  expect(await engine.outlets.tables()).toEqual([table])
  await expect(engine.outlets.saveTable('bad.cube', 'LUT_3D_SIZE 2\n0 0 0')).rejects.toThrow(/1 of the 8 points/)
  await engine.outlets.save(outlet('warm', 'storage', recipe('master', { table: table.id, channels: 'none' })))
  await expect(engine.outlets.removeTable(table.id)).rejects.toThrow('Pictures for “warm” go through this table.')
})

it('give the colours of the table, in files of every kind', async () => {
  const [table] = await engine.outlets.tables()
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = { id: 'a', name: 'Bell', in: 55, out: 60, metadata: {} }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, 1)
  await engine.outlets.save(
    outlet('stills', 'storage', recipe('sequence', { table: table!.id, stillFormat: 'dpx-10' })),
  )
  await engine.outlets.save(outlet('plain', 'storage', recipe('sequence', { stillFormat: 'dpx-10' })))
  const key = (outletId: string) => ({ timelineId: t.id, regionId: 'a', outletId })
  await engine.outlets.choose([key('warm'), key('stills'), key('plain')], true)
  await drain(engine)
  const [warm] = await deliverables(engine)
  expect(warm!.output.notes).toContain('Its pictures go through a look-up table, and are said to be BT.709 after it.')
  await engine.nights.start('night', 2)
  // what is frozen goes by it, whatever is set since
  for (const id of ['warm', 'stills']) await engine.outlets.save(outlet(id, 'storage', recipe('sound')))
  await expect(engine.outlets.removeTable(table!.id)).rejects.toThrow('A night that is not done goes by this table.')
  await drain(engine)
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(3).fill(['done', '']))
  const source = rgbOf(await frameOf('reel.mov', 57)).rgb
  const files = (await engine.handover.list()).filter((f) => f.outletId !== 'plain').map((f) => f.path)
  expect(files).toHaveLength(2)
  for (const file of files) {
    const made = rgbOf(await frameOf(file, 2)).rgb
    let sum = 0
    for (let i = 0; i < source.length; i += 3) {
      const wanted = look([...source.subarray(i, i + 3)].map((v) => Math.min(1, Math.max(0, v))))
      sum += Math.max(...wanted.map((v, k) => Math.abs(v - made[i + k]!)))
    }
    // edges of colour are where chroma is weighed anew
    expect([file, sum / (source.length / 3) < 0.004]).toEqual([file, true])
  }
})

it('that are gone are said before the night', async () => {
  const key = { timelineId: (await engine.timelines.list())[0]!.id, regionId: 'a', outletId: 'plain' }
  await engine.outlets.override([key], { table: 'gone-0123456789ab' }, [])
  const plain = (await deliverables(engine)).find((d) => d.outletId === 'plain')!
  const possible = plain.results.find((r) => r.rule.measure === 'possible')!
  expect([possible.verdict, plain.cleared]).toEqual(['fail', false])
  expect(possible.why).toContain('The look-up table “gone-0123456789ab” is not on the shelf')
  await engine.outlets.override([key], {}, ['table'])
})
