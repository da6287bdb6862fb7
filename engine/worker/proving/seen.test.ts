import { mkdirSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { memorySource } from '../../../core/bytes'
import type { Picture } from '../../../core/picture/picture'
import { openPictures } from '../../../core/codec/pictures'
import { openMedia } from '../../../core/container/registry'
import { mainFile } from '../../../core/deliverable/proof'
import { openSpec } from '../../../core/spec/shipped'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../../tests/fixtures'
import type { Session } from '../../session'
import { machineCodecs } from '../codecs'
import { checkUnits } from '../making/coded'
import type { DeliverableStep } from '../context'
import { localPorts } from '../localports'
import { looksKept, unitSummer } from '../making/looks'
import { see } from './seen'

// How much of a coded copy is decoded when it is proven, and what that finds.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const viewing = recipe('viewing', { width: null, height: null })
let engine: Session

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  engine = await testEngine(folder)
  const rule = { id: 'black', measure: 'black', severity: 'should', expect: { min: 0 }, clause: '1' } as const
  await engine.outlets.saveSpec({ ...openSpec, id: 'seen', name: 'Seen', rules: [rule] })
  await engine.outlets.save(outlet('some', 'storage', viewing))
  await engine.outlets.save(outlet('all', 'storage', { ...viewing, proofSpread: 0 }))
  await engine.outlets.save(outlet('asked', 'storage', viewing, { spec: 'seen' }))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = [{ id: 'r', name: 'r', in: 5, out: 115, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const keys = ['some', 'all', 'asked'].map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId }))
  await engine.outlets.choose(keys, true)
  await drain(engine)
  await engine.nights.start('night', 2)
  await drain(engine)
})
afterAll(async () => {
  await engine.close()
  remove()
})

async function proven(outletId: string) {
  const found = (await engine.handover.list()).find((h) => h.outletId === outletId)!
  return (await engine.handover.one(found.id))!.proof
}

/** The finished copy, opened, and a step over it as if it were about to be proven. */
async function copy(bytes?: (whole: Uint8Array) => void) {
  const proof = await proven('some')
  const whole = Uint8Array.from(readFileSync(path.join(storage, mainFile(proof).path)))
  bytes?.(whole)
  const { sheets } = await localPorts(engine.db, engine.roots, engine.folders.cache)
  const { id } = (await engine.handover.list()).find((h) => h.outletId === 'some')!
  const step = {
    item: await sheets.frozen(id),
    folder,
    claim: { key: 'test', fence: 1 },
    codecs: machineCodecs(),
    progress: () => undefined,
  } as unknown as DeliverableStep
  return { media: await openMedia(memorySource(whole, 'copy.mp4')), step }
}

it('decodes the ends, the joints and a picture a second, and says how many', async () => {
  const run = await latestRun(engine)
  expect(run.items.map((i) => [i.state, i.problem])).toEqual(run.items.map(() => ['done', null]))
  const { decoded, content, frames } = await proven('some')
  // segments of 4 s: 0 … 99 and 100 … 109
  expect([frames, content, decoded]).toEqual([110, null, [0, 26, 52, 78, 99, 100, 109].length])
})

it('decodes every picture where the recipe says so, and where a rule asks what is seen', async () => {
  for (const id of ['all', 'asked']) {
    const { decoded, content } = await proven(id)
    expect([id, decoded, content?.black]).toEqual([id, 110, []])
  }
})

it('finds a byte of any access unit that is not as it was encoded', async () => {
  const { media, step } = await copy()
  const track = media.video[0]!
  const sum = await unitSummer()
  const units = Array.from({ length: track.sampleCount }, (_, i) => track.sample(i))
  const sums = await Promise.all(units.map(async (u) => sum(await media.source.read(u.offset, u.size))))
  const coded = { sums: sums.join(''), looks: [] }
  await checkUnits(step, media, coded.sums)
  const at = units[60]!.offset + units[60]!.size - 3
  const damaged = await copy((whole) => (whole[at]! ^= 1))
  await expect(checkUnits(damaged.step, damaged.media, coded.sums)).rejects.toMatchObject({
    problem: { code: 'prove.unit', where: expect.stringContaining('10:01:01:15') as string },
  })
  const fewer = { ...coded, sums: coded.sums.slice(8) }
  await expect(checkUnits(step, media, fewer.sums)).rejects.toMatchObject({ problem: { code: 'prove.units' } })
})

it('finds a picture that is not the one that was encoded', async () => {
  const { media, step } = await copy()
  const opened = {
    ...{ info: media.info, media, sound: () => null, close: () => Promise.resolve() },
    pictures: () => openPictures(media, machineCodecs()),
  }
  const sum = await unitSummer()
  const track = media.video[0]!
  const sums: string[] = []
  for (let i = 0; i < track.sampleCount; i++) {
    const { offset, size } = track.sample(i)
    sums.push(sum(await media.source.read(offset, size)))
  }
  const own: Picture[] = []
  for await (const { picture } of openPictures(media, machineCodecs()).read({ in: 0, out: 110 })) own.push(picture)
  const some = [0, 26, 52, 78, 99, 100, 109]
  const looks = async (frames: readonly number[], of = (n: number) => own[n]!) => {
    const kept = looksKept(step)
    for (const n of frames) kept.take(n, of(n))
    return kept.save()
  }
  // one is held against another shot's
  const swapped = (n: number) => own[n === 78 ? 0 : n]!
  const coded = { sums: sums.join(''), looks: [await looks(some, swapped)] }
  const source = { info: media.info, pictures: opened.pictures, render: (p: Picture) => p }
  Object.assign(step, { source })
  await expect(see(step, opened, coded, null)).rejects.toMatchObject({ problem: { code: 'prove.picture' } })
  const short = { ...coded, looks: [await looks(some.slice(1))] }
  await expect(see(step, opened, short, null)).rejects.toMatchObject({ problem: { code: 'prove.looks' } })
})
