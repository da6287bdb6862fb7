import { existsSync, mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { scratchName } from '../../core/deliverable/names'
import { scratchFolder as ownFolder } from '../../tests/fixtures'
import { clearScratch } from '../worker/context'
import { Roots } from './roots'
import { scratchFolder, sweepScratch } from './scratch'

const { folder, remove } = ownFolder()
const storage = path.join(folder, 'storage')
mkdirSync(storage)
const roots = new Roots([storage])
const make = (id: string) => scratchFolder(roots, 'storage', 'me', 'run', id)
afterAll(remove)

it('what is left behind goes, what is begun meanwhile stays', async () => {
  const [old, open] = [await make('old'), await make('open')]
  let begun = ''
  await sweepScratch(roots, 'me', async () => {
    begun = await make('begun')
    return new Set(['open'])
  })
  expect([old, open, begun].map((f) => existsSync(f))).toEqual([false, true, true])
  await sweepScratch(roots, 'me', () => Promise.resolve(new Set()))
  expect(existsSync(path.join(storage, scratchName))).toBe(false)
})

it('folders are made and cleared by many at once, and none is missing', async () => {
  await Promise.all(
    Array.from({ length: 8 }, async (_, worker) => {
      for (let n = 0; n < 150; n++) {
        const own = await make(`${worker}-${n}`)
        expect(existsSync(own)).toBe(true)
        await clearScratch(own)
      }
    }),
  )
})
