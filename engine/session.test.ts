import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { describedEdition, type MediaInfo } from '../core/media/media'
import { drain, outlet, recipe, scratchFolder, smallReel, workHere } from '../tests/fixtures'
import { Session } from './session'

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
afterAll(remove)
const at = (data: string) =>
  Session.open({ data: path.join(folder, data), roots: [{ name: 'storage', path: storage }], workers: 0 })

it('a second session on the same storage removes nothing that is not its own', async () => {
  mkdirSync(storage)
  await smallReel(path.join(storage, 'reel.mov'))
  const first = await at('one')
  const t = await first.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = { id: 'r', name: 'Fog Bell', in: 0, out: 120, metadata: {} }
  await first.timelines.saveSplit(t.id, { regions: [region], markers: [] }, 1)
  await first.outlets.save(outlet('o', 'storage', recipe('master')))
  await first.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
  await drain(first)
  const run = await first.nights.start('night', 2)
  const some = async () => (await first.progress.view(run)).items[0]!.framesDone
  let done = 0
  const watching = setInterval(() => void some().then((n) => (done = n)), 10)
  await workHere(first, 0, () => done > 0)
  clearInterval(watching)
  const scratch = path.join(storage, '.velvet-scratch')
  const [own] = readdirSync(scratch)
  const before = readdirSync(path.join(scratch, own!), { recursive: true })
  expect(before.length).toBeGreaterThan(1)
  // an upload of somebody else's that is just coming in
  mkdirSync(path.join(scratch, 'other', 'incoming'), { recursive: true })
  writeFileSync(path.join(scratch, 'other', 'incoming', 'x.part'), '')
  const second = await at('two')
  await second.close()
  expect(readdirSync(path.join(scratch, own!), { recursive: true })).toEqual(before)
  expect(existsSync(path.join(scratch, 'other', 'incoming', 'x.part'))).toBe(true)
  await drain(first)
  expect((await first.progress.view(run)).items[0]).toMatchObject({ state: 'done', verdict: 'pass' })
  await first.close()
})

it('a data folder is one session’s alone, until it is closed', async () => {
  const first = await at('mine')
  await expect(at('mine')).rejects.toMatchObject({ problem: { code: 'data.in-use' } })
  await first.close()
  await (await at('mine')).close()
})

it('what an earlier edition did not ask of media is looked for at the start', async () => {
  writeFileSync(path.join(storage, 'cut.edl'), edl)
  const first = await at('older')
  const reel = await first.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  await first.timelines.bringIn({ root: 'storage', path: 'cut.edl' })
  await first.timelines.setScan(reel.id, 'interlaced-bff')
  const said = ({ data, video, edition }: MediaInfo) => [data, video[0]!.scan, video[0]!.labelled, edition]
  const told = async (e: Session) => (await e.timelines.list()).map((t) => [said(t.info), t.linking?.infos.map(said)])
  const known = await told(first)
  const own = [[], 'progressive', undefined, describedEdition]
  expect(known).toEqual([
    [[[], 'interlaced-bff', 'progressive', describedEdition], undefined],
    [own, [own]],
  ])
  // as that edition kept it
  for (const row of await first.db.selectFrom('timeline').select(['id', 'info', 'linking']).execute()) {
    const bare = (text: string) =>
      text.replace(/"data":\[\],|,"edition":\d+/g, '').replaceAll('"scan":"progressive"', '"scan":"segmented"')
    const linking = row.linking && bare(row.linking)
    await first.db
      .updateTable('timeline')
      .set({ info: bare(row.info), linking })
      .where('id', '=', row.id)
      .execute()
  }
  await first.close()
  const second = await at('older')
  await expect.poll(() => told(second)).toEqual(known)
  await second.close()
})

it('a list that an earlier edition put together is linked anew at the start', async () => {
  writeFileSync(path.join(storage, 'cut.edl'), edl)
  const first = await at('linked')
  const { id, fingerprint } = await first.timelines.bringIn({ root: 'storage', path: 'cut.edl' })
  const row = () =>
    first.db.selectFrom('timeline').select(['info', 'linking']).where('id', '=', id).executeTakeFirstOrThrow()
  const { info, linking } = await row()
  // an edition that showed all pixels in one shape, and did not say what was wrong
  const bare = (text: string | null) => text!.replace(/,"edition":\d+/g, '')
  const changed = { info: bare(info), linking: bare(linking).replace('"pixelAspect":1,', '"pixelAspect":2,') }
  expect(changed.linking).not.toBe(bare(linking))
  await first.db.updateTable('timeline').set(changed).where('id', '=', id).execute()
  await first.close()
  const second = await at('linked')
  await expect.poll(async () => (await second.timelines.get(id)).linking!.assembly.raster.pixelAspect).toBe(1)
  expect((await second.timelines.get(id)).fingerprint).toEqual(fingerprint)
  await second.close()
})

it('what was linked anew while an older description was completed stays', async () => {
  const first = await at('race')
  const t = await first.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const row = () => first.db.selectFrom('timeline').select('info').where('id', '=', t.id).executeTakeFirstOrThrow()
  const bare = (await row()).info.replace('"data":[],', '').replace(/,"edition":\d+/, '')
  const put = (info: string) => first.db.updateTable('timeline').set({ info }).where('id', '=', t.id).execute()
  await put(bare)
  const { data: _data, edition: _edition, ...info } = t.info
  const completing = first.timelines.complete({ ...t, info })
  // it has begun, and opens the file
  await new Promise((r) => setImmediate(r))
  const other = bare.replace('"size"', '"older":1,"size"')
  await put(other)
  await completing
  expect((await row()).info).toBe(other)
  await first.close()
})

const edl = `TITLE: CUT
FCM: NON-DROP FRAME
001  REEL     V     C        10:01:00:00 10:01:02:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: reel.mov
`
