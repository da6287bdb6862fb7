import { existsSync, mkdirSync, readFileSync, readdirSync, utimesSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { traceSize } from '../../core/analysis/trace'
import { scratchFolder } from '../../tests/fixtures'
import { clearCache, ownerOf } from './cache'
import { frameKept, frameWriter, readPreview } from './framestore'

const { folder, remove } = scratchFolder()
afterAll(remove)

const hour = 60 * 60 * 1000
const now = 1_800_000_000_000
let serial = 0
let cache: string
beforeEach(() => {
  cache = path.join(folder, String(serial++))
  mkdirSync(cache)
})

function put(name: string, hoursAgo: number, bytes = 1000) {
  const file = path.join(cache, name)
  writeFileSync(file, Buffer.alloc(bytes))
  utimesSync(file, (now - hoursAgo * hour) / 1000, (now - hoursAgo * hour) / 1000)
}
const left = () => readdirSync(cache).sort()

describe('a file of the cache', () => {
  it.each([
    ['0f3a.traces-4', { content: '0f3a' }],
    ['0f3a.4711.pack-4', { content: '0f3a' }],
    ['0f3a.traces', { content: 'former 0f3a.traces' }],
    ['0f3a.traces-2', { content: 'former 0f3a.traces-2' }],
    ['0f3a.4711.pack-3', { content: 'former 0f3a.4711.pack-3' }],
    ['0f3a.sound', { content: '0f3a' }],
    ['proof-20261125-ab12cd-003-first.jpg', { item: '20261125-ab12cd-003' }],
    ['proof-20261125-ab12cd-003-last-timeline.jpg', { item: '20261125-ab12cd-003' }],
  ])('%s belongs to %o', (name, owner) => expect(ownerOf(name)).toEqual(owner))
})

describe('clearing', () => {
  it('keeps what timelines show, and stills of deliverables that are there', async () => {
    for (const name of ['shown.traces-4', 'shown.1.pack-4', 'proof-i-001-first.jpg', 'proof-gone-001-first.jpg'])
      put(name, 2000)
    await clearCache(cache, new Set(['shown']), new Set(['i-001']), 0, now)
    expect(left()).toEqual(['proof-i-001-first.jpg', 'shown.1.pack-4', 'shown.traces-4'])
  })
  it('takes what was not used for longest first, until the rest has room', async () => {
    put('old.traces-4', 300)
    put('old.frames-4', 200)
    put('older.traces-4', 250)
    put('young.traces-4', 3)
    await clearCache(cache, new Set(), new Set(), 3000, now)
    expect(left()).toEqual(['old.frames-4', 'old.traces-4', 'young.traces-4'])
    await clearCache(cache, new Set(), new Set(), 1999, now)
    expect(left()).toEqual(['young.traces-4'])
  })
  it('leaves alone what has only just been written', async () => {
    put('new.traces-4', 0.5)
    put('new.1.pack-4', 30)
    await clearCache(cache, new Set(), new Set(), 0, now)
    expect(left()).toEqual(['new.1.pack-4', 'new.traces-4'])
  })
})

it('frames that were cleared and seen again are found again, also by who had the old files open', async () => {
  const see = async (text: string) => {
    const writer = frameWriter(cache)
    await writer.add({ content: 'c', frame: 3 }, Buffer.alloc(traceSize), Buffer.from(text))
    await writer.close()
  }
  await see('first')
  expect((await readPreview(cache, { content: 'c', frame: 3 }))!.toString()).toBe('first')
  await clearCache(cache, new Set(), new Set(), 0, Date.now() + 2 * hour)
  expect(existsSync(path.join(cache, 'c.frames-4'))).toBe(false)
  expect(await frameKept(cache, { content: 'c', frame: 3 })).toBe(false)
  await see('again')
  expect((await readPreview(cache, { content: 'c', frame: 3 }))!.toString()).toBe('again')
  expect(
    readFileSync(
      path.join(
        cache,
        readdirSync(cache).find((f) => f.endsWith('.pack-4'))!,
      ),
    ).toString(),
  ).toBe('again')
})
