import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import Libsql from 'libsql'
import { afterAll, expect, it } from 'vitest'
import { bump, openDatabase, readSetting, writeSetting } from './database'

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

it('two openings of one database see what the other wrote', async () => {
  const [a, b] = [await openDatabase(file), await openDatabase(file)]
  await Promise.all(Array.from({ length: 40 }, (_, i) => bump(i % 2 ? a : b, 'run')))
  expect(await b.selectFrom('pulse').selectAll().execute()).toEqual([{ topic: 'run', n: 40 }])
  await Promise.all([a.destroy(), b.destroy()])
})
