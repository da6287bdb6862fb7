import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, expect, it } from 'vitest'
import type { Picture } from '../../core/picture/picture'
import { fitPicture } from '../../core/picture/scale'
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
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from '../worker/codecs'

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')
const kinds = ['viewing', 'rewrap', 'sound'] as const

async function pictureOf(file: string, n: number): Promise<Picture> {
  const opened = await openMediaFile(file, file)
  try {
    for await (const { picture } of opened.pictures(machineCodecs()).read({ in: n, out: n + 1 })) return picture
    throw new Error('no picture')
  } finally {
    await opened.close()
  }
}

it('puts a sheet of the file’s own pictures beside it, where a recipe asks for one', async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = [{ id: 'r', name: 'Fog Bell Æ', in: 20, out: 110, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  for (const kind of kinds) {
    const contactSheet = kind === 'rewrap' ? 24 : 12
    await engine.outlets.save(outlet(kind, 'storage', recipe(kind, { contactSheet, channels: [1, 2] })))
  }
  await engine.outlets.choose(
    kinds.map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId })),
    true,
  )
  await drain(engine)
  const notes = (await deliverables(engine)).map((d) => (d.output.notes ?? []).some((n) => n.endsWith('there: Æ')))
  expect(notes).toEqual([true, true, false])
  // somebody's own file has the name of one of them
  const taken = path.join(storage, 'out/viewing/01_Fog_Bell_Æ.sheet.jpg')
  mkdirSync(path.dirname(taken), { recursive: true })
  writeFileSync(taken, 'a sheet of paper')
  await engine.nights.start('night', 2)
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => [i.state, i.problem])).toEqual(kinds.map(() => ['done', null]))
  expect(readFileSync(taken, 'utf8')).toBe('a sheet of paper')

  const beside = await Promise.all(
    items.map(async (i) => (await engine.handover.one(i.id))!.proof.files.map((f) => [f.role, f.path] as const)),
  )
  expect(beside.map((f) => f.slice(1))).toEqual([
    [['contact sheet', 'out/viewing/01_Fog_Bell_Æ.sheet_v02.jpg']],
    [['contact sheet', 'out/rewrap/01_Fog_Bell_Æ.sheet.jpg']],
    [],
  ])
  expect(existsSync(path.join(storage, 'out/sound/01_Fog_Bell_Æ.sheet.jpg'))).toBe(false)

  // 90 pictures: the first, the last, and ten between
  const { data, info } = await sharp(path.join(storage, beside[0]![1]![1]))
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true })
  expect([info.width, info.height]).toEqual([2000, 116 + 3 * 310])
  for (const [place, frame] of [
    [0, 0],
    [5, 40],
    [11, 89],
  ] as const) {
    const own = fitPicture(await pictureOf(path.join(storage, items[0]!.path), frame), {
      ...{ width: 480, height: 270, fit: 'stretch' },
    })
    let sum = 0
    for (let y = 0; y < 270; y++)
      for (let x = 0; x < 480; x++) {
        const shown = data[(116 + Math.floor(place / 4) * 310 + y) * info.width + 16 + (place % 4) * 496 + x]!
        // narrow range as a JPEG file has it: from black to white
        sum += Math.abs(((own.planes[0][y * 480 + x]! - 16) * 255) / 219 - shown)
      }
    expect([place, sum / (480 * 270) < 3]).toEqual([place, true])
  }
  await engine.close()
})
