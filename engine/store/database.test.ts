import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import Libsql from 'libsql'
import { afterAll, expect, it } from 'vitest'
import { changesAfter, lastChange, noteChange } from './changes'
import { openDatabase } from './database'
import { frozenOf, identitySum, problemOf, proofOf } from './deliverables'
import { up as identities } from './migrations/012-identity'
import { readSetting, writeSetting } from './settings'
import { choiceOf, outletOf } from './outlets'
import { kept as stored } from './stored'
import { timelineOf } from './timelines'

const folder = mkdtempSync(path.join(tmpdir(), 'velvet-database-'))
const file = path.join(folder, 'velvet.db')
afterAll(() => rmSync(folder, { recursive: true, force: true }))

it('a transaction that has read can still write, whatever other processes do meanwhile', async () => {
  const db = await openDatabase(file)
  const other = new Libsql(file, { timeout: 0 } as never)
  await writeSetting(db, 'installation', 'one')
  let refused = ''
  await db.transaction().execute(async (tx) => {
    const was = await readSetting(tx, 'installation')
    try {
      other.exec(`insert into setting (key, value) values ('from elsewhere', '1')`)
    } catch (e) {
      refused = (e as { code: string }).code
    }
    await writeSetting(tx, 'installation', `${was} and two`)
  })
  expect(refused).toBe('SQLITE_BUSY')
  expect(await readSetting(db, 'installation')).toBe('one and two')
  other.exec(`update setting set value = '"from elsewhere"' where key = 'installation'`)
  expect(await readSetting(db, 'installation')).toBe('from elsewhere')
  other.close()
  await db.destroy()
})

it('two openings of one database see what the other wrote, each change once and in order', async () => {
  const [a, b] = [await openDatabase(file), await openDatabase(file)]
  await Promise.all(Array.from({ length: 40 }, (_, i) => noteChange(i % 2 ? a : b, 'run', `r${i}`)))
  const list = (await changesAfter(b, 0))!
  expect(list.map((c) => c.id)).toEqual(Array.from({ length: 40 }, (_, i) => i + 1))
  expect(new Set(list.map((c) => c.key)).size).toBe(40)
  expect([await lastChange(a), await changesAfter(a, 40)]).toEqual([40, []])
  await a.deleteFrom('change').where('id', '<', 20).execute()
  expect(await changesAfter(b, 5)).toBeNull()
  await Promise.all([a.destroy(), b.destroy()])
})

const first = readFileSync(path.join(process.cwd(), 'tests', 'data', 'database-1.sql'), 'utf8')

it('a database of the first edition opens, and says the same under its present names', async () => {
  const old = path.join(folder, 'first.db')
  const raw = new Libsql(old)
  raw.exec(first)
  raw.close()
  const db = await openDatabase(old)
  const rows = await db.selectFrom('timeline').selectAll().orderBy('created').execute()
  const [reel, list] = rows.map(timelineOf)
  expect(reel!.fingerprint.content).toBe('ebb601e66ae2e637')
  expect(reel!.split.regions).toEqual([
    { id: 'r', name: 'Fog Bell', in: 10, out: 60, metadata: { 'production number': 'FA-103' } },
  ])
  expect(list!.linking!.assembly.sources[0]!.fingerprint.content).toBe('ebb601e66ae2e637')
  expect((await readSetting(db, 'specs'))[0]!.rules[0]!.measure).toBe('metadata')
  const kept = await db.selectFrom('deliverable').selectAll().orderBy('run_id').orderBy('position').execute()
  expect(kept.map((d) => [d.title, d.state, d.verdict])).toEqual([
    ['Fog Bell → archive', 'done', 'pass'],
    ['Fog Bell → archive', 'failed', null],
    ['Fog Bell → north', 'failed', null],
  ])
  expect(frozenOf(kept[0]!)).toMatchObject({ format: 2, output: { container: 'wav', frames: 50 }, steps: [] })
  expect(problemOf(kept[1]!)).toMatchObject({ code: 'run.earlier-edition' })
  expect(proofOf(kept[0]!)).toMatchObject({
    ...{ verdict: 'pass', frames: 0 },
    files: [{ sums: { sha256: expect.stringMatching(/^a385cda8/) as string, xxh64: '47765b887ae462df' } }],
  })
  expect([kept[0]!.bytes > 1000, stored.reportEntry.read(kept[0]!.report!, '')]).toMatchObject([
    true,
    {
      title: 'Fog Bell → archive',
      frames: 50,
      verdict: 'pass',
      checksums: { sha256: expect.stringMatching(/^[0-9a-f]{64}$/) },
    },
  ])
  expect((await db.selectFrom('run').select('state').execute()).map((r) => r.state)).toEqual(['done', 'done'])
  await db.destroy()
  // once is enough
  const again = await openDatabase(old)
  expect(await again.selectFrom('timeline').selectAll().orderBy('created').execute()).toEqual(rows)
  await again.destroy()
})

it('what was delivered is known again by what this edition makes of its sheet', async () => {
  const old = path.join(folder, 'identities.db')
  const raw = new Libsql(old)
  raw.exec(first)
  raw.close()
  const db = await openDatabase(old)
  const [sound, damaged, copy] = await db
    .selectFrom('deliverable')
    .selectAll()
    .orderBy('run_id')
    .orderBy('position')
    .execute()
  const frozen = frozenOf(sound!)
  // a sheet of before a setting came, one that is damaged, and a copy that another scaler made
  const { pictureDither: _, ...recipe } = frozen.recipe
  const viewing = Object.fromEntries(Object.entries(recipe).filter(([name]) => name !== 'scaler'))
  const set = (id: string, sheet: string) =>
    db.updateTable('deliverable').set({ sheet, identity: 'of before' }).where('id', '=', id).execute()
  await set(sound!.id, JSON.stringify({ format: 2, value: { ...frozen, recipe } }))
  await set(damaged!.id, '{ damaged')
  await set(copy!.id, JSON.stringify({ format: 2, value: { ...frozen, recipe: { ...viewing, kind: 'viewing' } } }))
  await identities(db as never)
  const after = await db.selectFrom('deliverable').select('identity').orderBy('run_id').orderBy('position').execute()
  expect(after.map((d) => d.identity)).toEqual([identitySum(frozen), null, null])
  await db.destroy()
})

it('a database that a newer edition has been at is refused, and left as it is', async () => {
  const db = await openDatabase(file)
  await db
    .insertInto('kysely_migration' as never)
    .values({ name: '999-later', timestamp: '' } as never)
    .execute()
  await db.destroy()
  await expect(openDatabase(file)).rejects.toMatchObject({ problem: { code: 'data.newer', where: file } })
})

it('what is kept says its format: an older one gets its defaults, a newer or damaged one is told with its row', () => {
  const outlet = outletOf({
    ...{ id: 'n', name: 'North', spec: 'open', pattern: '{region}', root: 'storage', folder: '' },
    ...{ kinds: null, checksums: null, position: 0 },
    recipe: '{"id":"r","name":"R","kind":"master","container":"mov","fit":"crop"}',
  })
  expect(outlet.recipe).toMatchObject({ fit: 'crop', soundDepth: 24, channels: 'all' })
  const text = stored.recipe.write(outlet.recipe)
  expect(JSON.parse(text)).toMatchObject({ format: 1, value: { kind: 'master' } })
  expect(stored.recipe.read(text, 'x')).toEqual(outlet.recipe)
  const read = (recipe: string) => () => stored.recipe.read(recipe, 'outlet “North”')
  const where = 'outlet “North”'
  expect(read('{"format":2,"value":{}}')).toThrow(
    expect.objectContaining({ problem: expect.objectContaining({ code: 'data.newer', where }) }),
  )
  for (const bad of ['', '{"id":', '[]', '{"id":"r","name":"R","kind":"hologram"}', '{"format":1,"value":null}'])
    expect(read(bad), bad).toThrow(
      expect.objectContaining({ problem: expect.objectContaining({ code: 'data.damaged', where }) }),
    )
  const row = { timeline_id: 't', region_id: 'r', outlet_id: 'o', chosen: 1, overrides: '{"gain":-3}', waivers: '[]' }
  expect(choiceOf(row)).toMatchObject({ chosen: true, overrides: { gain: -3 }, waivers: [] })
})
