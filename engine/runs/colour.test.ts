import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { lumaWeights } from '../../core/media/colour'
import type { Picture } from '../../core/picture/picture'
import { lightMatrix } from '../../core/picture/convert'
import { rgbOf } from '../../core/picture/rgb'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from '../worker/codecs'

// Colour brought to another system: what files say, and the light a display makes of them.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')

async function frameOf(file: string, n: number): Promise<{ picture: Picture; colour: unknown }> {
  const opened = await openMediaFile(path.join(storage, file), file)
  try {
    for await (const { picture } of opened.pictures(machineCodecs()).read({ in: n, out: n + 1 }))
      return { picture, colour: opened.info.video[0]!.colour }
    throw new Error('no picture')
  } finally {
    await opened.close()
  }
}

/** The light of a display, of every hundredth pixel. */
const lightOf = (p: Picture, matrix: number) => {
  const { rgb } = rgbOf(p, lumaWeights(matrix))
  return Array.from({ length: Math.floor(rgb.length / 300) }, (_, i) =>
    [0, 1, 2].map((k) => Math.max(0, rgb[i * 300 + k]!) ** 2.4),
  )
}

it('delivers the same light in BT.2020 and in BT.601, and says what each file is', async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { pictures: 'v210', bitrate: 0 })
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  await engine.timelines.saveSplit(
    t.id,
    { regions: [{ id: 'a', name: 'Bell', in: 55, out: 65, metadata: {} }], markers: [] },
    1,
  )
  for (const [id, r] of [
    ['wide', recipe('master', { colour: 'bt2020', channels: 'none' })],
    ['sd', recipe('master', { colour: 'bt601-625', channels: 'none' })],
    ['exr', recipe('sequence', { colour: 'bt2020', stillFormat: 'exr-zip' })],
  ] as const) {
    await engine.outlets.save(outlet(id, 'storage', r))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'a', outletId: id }], true)
  }
  await drain(engine)
  await engine.nights.start('night', 2)
  await drain(engine)
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(3).fill(['done', '']))
  const source = lightOf((await frameOf('reel.mov', 57)).picture, 1)
  const bt709 = { primaries: 1, transfer: 1, matrix: 1, fullRange: false }
  for (const [file, colour] of [
    ['out/wide/01_Bell.mov', { primaries: 9, transfer: 14, matrix: 9, fullRange: false }],
    ['out/sd/01_Bell.mov', { primaries: 5, transfer: 6, matrix: 6, fullRange: false }],
    ['out/exr/01_Bell/01_Bell.[0901530-0901539].exr', { primaries: 9, transfer: 14, matrix: 9, fullRange: false }],
  ] as const) {
    const there = await frameOf(file, 2)
    expect([file, there.colour]).toEqual([file, colour])
    const m = lightMatrix(colour, bt709)!
    const back = lightOf(there.picture, colour.matrix).map((l) =>
      [0, 3, 6].map((i) => m[i]! * l[0]! + m[i + 1]! * l[1]! + m[i + 2]! * l[2]!),
    )
    const off = back.map((l, i) => Math.max(...l.map((v, k) => Math.abs(v - source[i]![k]!))))
    const mean = off.reduce((a, b) => a + b, 0) / off.length
    // edges of colour are where chroma is weighed anew
    expect(mean).toBeLessThan(0.006)
    // as another would have it who took it for BT.709
    const wrong = lightOf(there.picture, 1).map((l, i) => Math.max(...l.map((v, k) => Math.abs(v - source[i]![k]!))))
    expect(wrong.reduce((a, b) => a + b, 0) / wrong.length).toBeGreaterThan(2 * mean)
  }
  await engine.close()
})

it('holds stills that cannot say their colour against the timeline by the weights they were made with', async () => {
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'out/sd/01_Bell.mov' })
  const region = (id: string, name: string, from: number) => ({ id, name, in: from, out: from + 3, metadata: {} })
  const regions = [region('b', 'Chain', 1), region('c', 'Chain [1-2]', 5)]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  for (const [id, r] of [
    ['png', recipe('still', { stillFormat: 'png-16' })],
    ['tiff', recipe('sequence', { stillFormat: 'tiff-8', colour: 'bt2020' })],
  ] as const) {
    await engine.outlets.save(outlet(id, 'storage', r))
    const keys = regions.map(({ id: regionId }) => ({ timelineId: t.id, regionId, outletId: id }))
    await engine.outlets.choose(keys, true)
  }
  await drain(engine)
  // a still of one file whose name would be read as that of two is kept back
  const names = (await engine.nights.judged()).flatMap((d) =>
    d.results.filter((x) => x.rule.measure === 'file-name' && x.verdict === 'fail').map(() => d.path),
  )
  expect(names).toEqual(['out/png/02_Chain_[1-2].png'])
  // checksums of what was delivered stand beside its source
  await engine.timelines.media.look()
  await drain(engine)
  await engine.nights.start('stills', 2)
  await drain(engine)
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.path, i.state, i.problem?.message ?? ''])).toEqual([
    ['out/png/01_Chain.png', 'done', ''],
    ['out/tiff/01_Chain/01_Chain.[0901531-0901533].tif', 'done', ''],
    ['out/tiff/02_Chain_[1-2]/02_Chain_[1-2].[0901535-0901537].tif', 'done', ''],
  ])
  for (const i of run.items) {
    const { proof } = (await engine.handover.one(i.id))!
    expect(Math.max(proof.ends!.first, proof.ends!.last)).toBeLessThan(1)
  }
  await engine.close()
})
