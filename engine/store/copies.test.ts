import { copyFileSync, existsSync, mkdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import Libsql from 'libsql'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { outlet, recipe, scratchFolder } from '../../tests/fixtures'
import { Session } from '../session'
import { copyOf } from './copies'
import { damagedRows } from './damage'

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const data = path.join(folder, 'data')
const file = path.join(data, 'velvet.sqlite')
const start = () => Session.open({ data, roots: [storage], workers: 0, watch: true })
const outlets = async () => {
  const session = await start()
  const list = (await session.outlets.list()).map((o) => o.name)
  const damage = damagedRows(session.db)
  await session.close()
  return { list, damage }
}

beforeAll(async () => {
  mkdirSync(storage)
  const session = await start()
  for (const id of ['north', 'south']) await session.outlets.save(outlet(id, 'storage', recipe('sound')))
  await session.close()
  await outlets()
})
afterAll(remove)

function lay(): void {
  for (const end of ['', '-wal', '-shm']) rmSync(`${file}${end}`, { force: true })
  copyFileSync(copyOf(file), file)
}

it.each([
  ['is empty', () => truncateSync(file, 0)],
  ['is gone', () => rmSync(file)],
  ['is no database any more', () => writeFileSync(file, 'x'.repeat(8192))],
  ['is damaged', () => writeFileSync(file, readFileSync(file).fill(0x5a, 4096))],
])('a database that %s is said with the file and the copy to put back, and that copy works', async (what, harm) => {
  harm()
  await expect(start()).rejects.toMatchObject({
    problem: {
      code: 'data.damaged',
      message: expect.stringContaining(`The database ${what}`) as string,
      where: file,
      fix: expect.stringContaining('velvet.sqlite.last-start') as string,
    },
  })
  lay()
  expect(await outlets()).toEqual({ list: ['north', 'south'], damage: [] })
})

it('a damaged row is left out and said; all others are there', async () => {
  const raw = new Libsql(file)
  raw.exec(`update outlet set recipe = '{"id":' where id = 'north'`)
  raw.exec(`insert into setting values ('specs', '{"format":1,"value":[{}]}')`)
  raw.close()
  const { list, damage } = await outlets()
  expect(list).toEqual(['south'])
  expect(damage.map((p) => [p.code, p.where])).toEqual([
    ['data.damaged', 'outlet “north”'],
    ['data.damaged', 'setting “specs”'],
  ])
  // the copy is of the last start at which everything could be read
  lay()
  expect(await outlets()).toEqual({ list: ['north', 'south'], damage: [] })
})

it('a database of an earlier edition is copied before it is changed', async () => {
  const old = path.join(folder, 'old')
  mkdirSync(path.join(old, 'runs'), { recursive: true })
  const raw = new Libsql(path.join(old, 'velvet.sqlite'))
  raw.exec(readFileSync(path.join(process.cwd(), 'tests', 'data', 'database-1.sql'), 'utf8'))
  raw.close()
  const before = readFileSync(path.join(old, 'velvet.sqlite'))
  await (await Session.open({ data: old, roots: [storage], workers: 0 })).close()
  expect(readFileSync(path.join(old, 'velvet.sqlite.at-000')).equals(before)).toBe(true)
  expect(existsSync(path.join(old, 'velvet.sqlite.part'))).toBe(false)
})
