import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import Libsql from 'libsql'
import { afterAll, expect, it } from 'vitest'
import { changesAfter, lastChange, noteChange } from './changes'
import { openDatabase } from './database'
import { frozenOf } from './deliverables'
import { readSetting, writeSetting } from './settings'
import { timelineOf } from './timelines'

const folder = mkdtempSync(path.join(tmpdir(), 'velvet-database-'))
const file = path.join(folder, 'velvet.db')
afterAll(() => rmSync(folder, { recursive: true, force: true }))

it('a transaction that has read can still write, whatever other processes do meanwhile', async () => {
  const db = await openDatabase(file)
  const other = new Libsql(file, { timeout: 0 } as never)
  await writeSetting(db, 'crew', { workers: 1 })
  let refused = ''
  await db.transaction().execute(async (tx) => {
    const { workers } = await readSetting(tx, 'crew', { workers: 0 })
    try {
      other.exec(`insert into setting (key, value) values ('from elsewhere', '1')`)
    } catch (e) {
      refused = (e as { code: string }).code
    }
    await writeSetting(tx, 'crew', { workers: workers + 1 })
  })
  expect(refused).toBe('SQLITE_BUSY')
  expect(await readSetting(db, 'crew', null)).toEqual({ workers: 2 })
  other.exec(`insert into setting (key, value) values ('from elsewhere', '1')`)
  expect(await readSetting(db, 'from elsewhere', null)).toBe(1)
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
  expect((await readSetting<{ rules: { measure: string }[] }[]>(db, 'specs', []))[0]!.rules[0]!.measure).toBe(
    'metadata',
  )
  const kept = await db.selectFrom('deliverable').selectAll().orderBy('run_id').orderBy('position').execute()
  expect(kept.map((d) => [d.title, d.state, d.verdict])).toEqual([
    ['Fog Bell → archive', 'done', 'pass'],
    ['Fog Bell → archive', 'failed', null],
    ['Fog Bell → north', 'failed', null],
  ])
  expect(frozenOf(kept[0]!)).toMatchObject({ format: 2, output: { container: 'wav', frames: 50 }, steps: [] })
  expect(JSON.parse(kept[1]!.problem!)).toMatchObject({ code: 'run.earlier-edition' })
  expect((await db.selectFrom('run').select('state').execute()).map((r) => r.state)).toEqual(['done', 'done'])
  await db.destroy()
  // once is enough
  const again = await openDatabase(old)
  expect(await again.selectFrom('timeline').selectAll().orderBy('created').execute()).toEqual(rows)
  await again.destroy()
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
