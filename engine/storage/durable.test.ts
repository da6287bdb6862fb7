import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { open, type FileHandle } from 'node:fs/promises'
import path from 'node:path'
import { afterAll, afterEach, describe, expect, it, vi } from 'vitest'
import { traceSize } from '../../core/analysis/trace'
import { scratchFolder } from '../../tests/fixtures'
import { makeFolder, replaceFile, writeAll, writeWhole } from './durable'
import { moveUnlessTaken } from './exclusive'
import { frameKept, frameWriter, readTraces } from './framestore'

// What a power cut leaves cannot be tried here. What is held instead: what is said or named was flushed before.

const { folder, remove } = scratchFolder()
const at = (name: string) => path.join(folder, name)
afterAll(remove)
afterEach(() => vi.restoreAllMocks())

/** Calls `seen` whenever a file or a folder is about to be flushed; tells how often that was. */
async function onFlush(kind: 'sync' | 'datasync', seen: (nth: number) => unknown): Promise<() => number> {
  vi.restoreAllMocks()
  const any = await open(folder, 'r')
  const handles = Object.getPrototypeOf(any) as Record<typeof kind, () => Promise<void>>
  await any.close()
  const real = handles[kind]
  let flushed = 0
  vi.spyOn(handles, kind).mockImplementation(async function (this: FileHandle) {
    await seen(++flushed)
    return real.call(this)
  })
  return () => flushed
}

describe('what is written', () => {
  it('is written to its end by a disk that takes a part of it at a time', async () => {
    const bytes = Uint8Array.from({ length: 10 }, (_, i) => i)
    const taken: [number, number[]][] = []
    const slow = {
      write: (b: Uint8Array, from: number, count: number, to: number) => {
        const bytesWritten = Math.min(3, count)
        taken.push([to, [...b.subarray(from, from + bytesWritten)]])
        return Promise.resolve({ bytesWritten })
      },
    }
    await writeAll(slow as unknown as FileHandle, bytes, 100)
    expect(taken.map(([to]) => to)).toEqual([100, 103, 106, 109])
    expect(taken.flatMap(([, b]) => b)).toEqual([...bytes])
  })

  it('replaces a file only when what replaces it is on the disk', async () => {
    writeFileSync(at('report.json'), 'old')
    const seen: string[] = []
    await onFlush('sync', () => seen.push(readFileSync(at('report.json'), 'utf8')))
    await replaceFile(at('report.json'), 'new', at('part'))
    // its bytes while the old one stands there, then its name
    expect(seen).toEqual(['old', 'new'])
    expect(existsSync(at('part'))).toBe(false)
  })

  it('has its name on the disk, and the folders above it', async () => {
    const made = await onFlush('sync', () => undefined)
    await makeFolder(at('deliveries/northmere/week 1'))
    expect(made()).toBe(3)
    await makeFolder(at('deliveries/northmere'))
    expect(made()).toBe(3)
    await writeWhole(at('scratch'), 'film')
    const named = await onFlush('sync', () => expect(existsSync(at('deliveries/northmere/film.mov'))).toBe(true))
    expect(await moveUnlessTaken(at('scratch'), at('deliveries/northmere/film.mov'))).toBe(true)
    expect(named()).toBe(1)
  })
})

describe('frames that were seen', () => {
  it('are said to be when they are on the disk, some at a time', async () => {
    const writer = frameWriter(folder)
    const origin = (frame: number) => ({ content: 'reel', frame })
    const known = async () => {
      const all = await Promise.all(Array.from({ length: 60 }, (_, n) => frameKept(folder, origin(n))))
      return all.filter(Boolean).length
    }
    const before: number[] = []
    await onFlush('datasync', async () => before.push(await known()))
    for (let n = 0; n < 60; n++) await writer.add(origin(n), new Uint8Array(traceSize).fill(n), new Uint8Array(9))
    expect(await known()).toBe(50)
    await writer.close()
    expect(await known()).toBe(60)
    // traces and small pictures, twice
    expect(before).toEqual([0, 0, 50, 50])
    const traces = await readTraces(folder, origin(0), 60)
    expect(traces?.every((v, i) => v === Math.floor(i / traceSize))).toBe(true)
  })
})
