import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { bt709 } from '../../core/media/colour'
import { emptyPicture, type Picture } from '../../core/picture/picture'
import { rgbOf } from '../../core/picture/rgb'
import { stillWriting } from '../../core/stills/registry'
import { makeRate } from '../../core/time/rate'
import { drain, latestRun, outlet, recipe, scratchFolder, testEngine } from '../../tests/fixtures'
import { openMediaFile } from '../storage/mediafile'
import { stillLibrary } from '../storage/stilllibrary'
import { machineCodecs } from '../worker/codecs'

// Pictures of two fields in other rasters, and as progressive ones.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')

/** A bar that stands further right in the lower field: as far as it moves between the two. */
function moving(): Picture {
  const p = emptyPicture(256, 128, '4:2:2', 10)
  for (let y = 0; y < 128; y++)
    for (let x = 0; x < 256; x++) p.planes[0][y * 256 + x] = Math.abs(x - (y % 2 ? 160 : 64)) < 24 ? 900 : 100
  p.planes[1].fill(512)
  p.planes[2].fill(512)
  return p
}

async function firstOf(file: string) {
  const opened = await openMediaFile(path.join(storage, file), file)
  try {
    for await (const { picture } of opened.pictures(machineCodecs()).read({ in: 0, out: 1 }))
      return { picture, scan: opened.info.video[0]!.scan }
    throw new Error('no picture')
  } finally {
    await opened.close()
  }
}

it('keeps fields apart where a file has them, and joins them where it has none', async () => {
  mkdirSync(path.join(storage, 'bar'), { recursive: true })
  const [, dpx] = stillWriting('dpx-10')
  for (let n = 0; n < 6; n++) {
    const told = { name: `bar.000${n}.dpx`, show: 'Bar', date: '', rate: makeRate(25), timecode: `10:00:00:0${n}` }
    const rest = { reel: '', position: n, length: 6, colour: bt709, pixelAspect: '1:1', interlaced: true }
    const bytes = await dpx.write(rgbOf(moving()), { ...told, ...rest }, stillLibrary)
    writeFileSync(path.join(storage, 'bar', told.name), bytes)
  }
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'bar/bar.[0000-0005].dpx' })
  const region = { id: 'a', name: 'Bar', in: 0, out: 6, metadata: {} }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, 1)
  for (const [id, r] of [
    ['half', recipe('master', { width: 128, height: 64, channels: 'none' })],
    ['look', recipe('viewing', { width: 256, height: 128, channels: 'none', pictureBitrate: 4000 })],
    ['same', recipe('viewing', { width: null, height: null, channels: 'none', pictureBitrate: 4000 })],
  ] as const) {
    await engine.outlets.save(outlet(id, 'storage', r))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'a', outletId: id }], true)
  }
  await drain(engine)
  await engine.nights.start('night', 2)
  await drain(engine)
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(3).fill(['done', '']))
  const half = await firstOf('out/half/01_Bar.mov')
  expect(half.scan).toMatch(/^interlaced/)
  const at = (p: Picture, x: number, y: number) => p.planes[0][y * p.width + x]!
  // each field has its own bar, and nothing of the other's
  for (const y of [20, 22, 40]) expect([at(half.picture, 32, y), at(half.picture, 80, y)]).toEqual([900, 100])
  for (const y of [21, 23, 41]) expect([at(half.picture, 32, y), at(half.picture, 80, y)]).toEqual([100, 900])
  for (const name of ['look', 'same']) {
    const { picture, scan } = await firstOf(`out/${name}/01_Bar.mp4`)
    expect(scan).toBe('progressive')
    // the upper field's moment, in all lines
    for (const y of [40, 41, 42, 43]) {
      expect(Math.abs(at(picture, 64, y) - 225)).toBeLessThan(12)
      expect(Math.abs(at(picture, 160, y) - 25)).toBeLessThan(12)
    }
  }
  await engine.close()
})
