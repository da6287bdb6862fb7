import { link, open, readFile, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { scratchFolder } from '../../../tests/fixtures'
import { sharedFile, Superseded } from './sharedfile'

const { folder, remove } = scratchFolder()
afterAll(remove)
const text = async (file: string) => (await readFile(file)).toString()

it('several steps write into one file, each in its place', async () => {
  const file = path.join(folder, 'a')
  const [one, two] = [await sharedFile(file, false), await sharedFile(file, false)]
  await two.write(3, Buffer.from('two'))
  await one.write(0, Buffer.from('one'))
  await Promise.all([one.finish(), two.finish()])
  expect(await text(file)).toBe('onetwo')
})

it('nothing that a lost worker still writes reaches the file that goes on, nor what is delivered of it', async () => {
  const file = path.join(folder, 'b')
  await writeFile(file, 'done----')
  // stopped in the middle of its step, with the file open
  const stale = await open(file, 'r+')
  const next = await sharedFile(file, true)
  await next.write(4, Buffer.from('mine'))
  await next.finish()
  await link(file, path.join(folder, 'delivered'))
  await stale.write(Buffer.from('XXXXXXXX'), 0, 8, 0)
  await stale.close()
  expect(await text(path.join(folder, 'delivered'))).toBe('donemine')
})

it('a step that was writing while the file was replaced finds out, and is done again', async () => {
  const file = path.join(folder, 'c')
  await writeFile(file, 'done----')
  const healthy = await sharedFile(file, false)
  const next = await sharedFile(file, true)
  await healthy.write(0, Buffer.from('LATE'))
  await expect(healthy.finish()).rejects.toBeInstanceOf(Superseded)
  await next.write(4, Buffer.from('mine'))
  await next.finish()
  expect(await text(file)).toBe('donemine')
})
