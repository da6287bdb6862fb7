import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import { openDatabase } from './database'
import { learnPace, readPaces } from './paces'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('paces follow the last steps, and forget slowly', async () => {
  const db = await openDatabase(path.join(folder, 'velvet.sqlite'))
  await learnPace(db, 'a', 100, 10)
  await learnPace(db, 'b', 0, 10)
  await learnPace(db, 'b', 10, 0)
  expect([...(await readPaces(db))]).toEqual([['a', 10]])
  await learnPace(db, 'a', 100, 5)
  expect((await readPaces(db)).get('a')).toBe(Number((190 / 14).toPrecision(2)))
  for (let i = 0; i < 60; i++) await learnPace(db, 'a', 100, 5)
  expect((await readPaces(db)).get('a')).toBe(20)
  await db.destroy()
})
