import { mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import { openDatabase, type Db } from '../store/database'
import { markerFile } from './identity'
import { knownRoots } from './knownroots'
import { Roots } from './roots'

const { folder, remove } = scratchFolder()
const a = path.join(folder, 'one', 'disk')
const b = path.join(folder, 'two', 'disk')
let db: Db
beforeAll(async () => {
  for (const f of [a, b]) mkdirSync(f, { recursive: true })
  db = await openDatabase(path.join(folder, 'velvet.db'))
})
afterAll(async () => {
  await db.destroy()
  remove()
})

const names = async (...folders: string[]) => (await knownRoots(db, folders)).map((r) => [r.name, r.path])
const awayOf = async (name: string, ...folders: string[]) => new Roots(await knownRoots(db, folders)).away(name)

it('keep their names, whatever order their folders are given in, and wherever they are mounted', async () => {
  expect(await names(a, b)).toEqual([
    ['disk', a],
    ['disk 2', b],
  ])
  expect(await names(b, a, b)).toEqual([
    ['disk 2', b],
    ['disk', a],
  ])
  expect(await names(b)).toEqual([['disk 2', b]])
  const moved = path.join(folder, 'three')
  renameSync(a, moved)
  expect(await names(moved)).toEqual([['disk', moved]])
  renameSync(moved, a)
  expect(await awayOf('disk', b, a)).toBeNull()
})

it('are waited for when only a bare mount point is left, and are other roots when another disk is there', async () => {
  renameSync(a, `${a} away`)
  mkdirSync(a)
  expect(await awayOf('disk', a)).toMatchObject({ code: 'root.away', where: a })
  const other = path.join(folder, 'other')
  mkdirSync(other)
  await knownRoots(db, [other])
  writeFileSync(path.join(a, markerFile), readFileSync(path.join(other, markerFile)))
  expect(await names(a)).toEqual([['other', a]])
  rmSync(a, { recursive: true })
  renameSync(`${a} away`, a)
  expect(await names(a)).toEqual([['disk', a]])
})

it('take their marker again when it alone was removed', async () => {
  const marker = readFileSync(path.join(a, markerFile), 'utf8')
  writeFileSync(path.join(a, 'reel.mov'), '')
  rmSync(path.join(a, markerFile))
  expect(await awayOf('disk', a)).toBeNull()
  expect(readFileSync(path.join(a, markerFile), 'utf8')).toBe(marker)
})

it('tell two copies of one folder apart', async () => {
  const copy = path.join(folder, 'copy')
  mkdirSync(copy)
  writeFileSync(path.join(copy, markerFile), readFileSync(path.join(a, markerFile)))
  const [first, second] = await knownRoots(db, [a, copy])
  expect([first!.name, second!.name, first!.marker === second!.marker]).toEqual(['disk', 'copy', false])
})
