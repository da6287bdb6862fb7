import { randomBytes } from 'node:crypto'
import { open, type FileHandle } from 'node:fs/promises'
import path from 'node:path'
import { traceSize } from '../../core/analysis/trace'
import type { Frames } from '../../core/time/rate'
import type { Origin } from '../worker/sources/source'
import { writeAll } from './durable'

/** Frames of a segment: what one task of the pass over the pictures goes through. */
export const segmentLength = 250

/** Width of the small pictures. */
export const previewWidth = 480

/**
 * What the pass keeps of every frame it has seen, by the content of the file the frame comes from, so that a frame seen
 * once is known in every timeline that shows it. For each content: its traces one after the other (`.traces-4`); small
 * pictures as JPEG, a pack for each process that writes (`.N.pack-4`); and 16 bytes a frame saying where its picture is
 * (`.frames-4`: offset as a 64-bit float, length and N as 32-bit integers, little-endian). Length zero: the frame has
 * not been seen.
 */
const entry = 16

const edition = 4

const fileOf = (cache: string, content: string, kind: string) => path.join(cache, `${content}.${kind}-${edition}`)

/** Whether a file of the cache is of an edition that said something else. */
export function isFormerFrames(name: string): boolean {
  const found = /\.(?:traces|frames|pack)(?:-(\d+))?$/.exec(name)
  return found !== null && Number(found[1] ?? 1) < edition
}

async function openInPlace(file: string): Promise<FileHandle> {
  await (await open(file, 'a')).close()
  return open(file, 'r+')
}

/** The number of this process among those that write: its packs are its own, on whatever machine it is. */
const writerId = randomBytes(4).readUInt32LE(0)

interface Written {
  readonly traces: FileHandle
  readonly pack: FileHandle
  readonly index: FileHandle
  /** Where the next small picture goes. */
  at: number
  /** Frames that are written, and not yet said to be. */
  readonly unsaid: { readonly frame: Frames; readonly entry: Uint8Array }[]
}

/** Frames that are written before they are said to be. */
const together = 50

/**
 * Says that frames are kept, once they are on the disk: a power cut may keep the saying and lose what was said, and an
 * empty trace would be black that nobody saw.
 */
async function say({ traces, pack, index, unsaid }: Written): Promise<void> {
  const said = unsaid.splice(0)
  if (said.length === 0) return
  await Promise.all([traces.datasync(), pack.datasync()])
  for (const s of said) await writeAll(index, s.entry, s.frame * entry)
}

/** Writes frames as they are seen; a process has one at a time. They are known once it is closed, many before. */
export function frameWriter(cache: string) {
  const files = new Map<string, Promise<Written>>()
  const filesOf = (content: string) => {
    let made = files.get(content)
    if (!made) {
      made = (async () => {
        const [traces, pack, index] = [
          await openInPlace(fileOf(cache, content, 'traces')),
          await openInPlace(fileOf(cache, content, `${writerId}.pack`)),
          await openInPlace(fileOf(cache, content, 'frames')),
        ]
        return { traces, pack, index, at: (await pack.stat()).size, unsaid: [] }
      })()
      files.set(content, made)
    }
    return made
  }
  return {
    async add({ content, frame }: Origin, trace: Uint8Array, jpeg: Uint8Array): Promise<void> {
      const f = await filesOf(content)
      // the place is taken before anything is awaited: several pictures may be under way
      const offset = f.at
      f.at += jpeg.length
      await Promise.all([writeAll(f.traces, trace, frame * traceSize), writeAll(f.pack, jpeg, offset)])
      const e = Buffer.alloc(entry)
      e.writeDoubleLE(offset, 0)
      e.writeUInt32LE(jpeg.length, 8)
      e.writeUInt32LE(writerId, 12)
      f.unsaid.push({ frame, entry: e })
      if (f.unsaid.length >= together) await say(f)
    },
    /** Says what is left to say, and closes. */
    async close(): Promise<void> {
      const closed = [...files.values()].map(async (made) => {
        const f = await made.catch(() => null)
        if (f) await say(f).finally(() => Promise.all([f.traces.close(), f.pack.close(), f.index.close()]))
      })
      await Promise.allSettled(closed)
      await Promise.all(closed)
    },
  }
}

const handles = new Map<string, Promise<FileHandle>>()

/** A file kept open for reading; opened anew when it was cleared from the cache. */
async function opened(file: string): Promise<FileHandle | null> {
  const known = handles.get(file)
  if (known) {
    const there = await known.catch(() => null)
    const current = (await there?.stat().catch(() => null))?.nlink
    if (handles.get(file) !== known) return opened(file)
    handles.delete(file)
    if (there && current) {
      // used last: closed last
      handles.set(file, known)
      return there
    }
    void there?.close()
  }
  const handle = open(file, 'r')
  handles.set(file, handle)
  handle.catch(() => handles.delete(file))
  if (handles.size > 200) {
    const [oldest, value] = handles.entries().next().value!
    handles.delete(oldest)
    value.then((h) => h.close()).catch(() => undefined)
  }
  return handle.catch(() => null)
}

async function readEntry(
  cache: string,
  { content, frame }: Origin,
): Promise<{ offset: number; length: number; pack: number } | null> {
  const index = await opened(fileOf(cache, content, 'frames'))
  const e = Buffer.alloc(entry)
  const read = await index?.read(e, 0, entry, frame * entry)
  const length = e.readUInt32LE(8)
  return read?.bytesRead === entry && length > 0
    ? { offset: e.readDoubleLE(0), length, pack: e.readUInt32LE(12) }
    : null
}

export async function frameKept(cache: string, origin: Origin): Promise<boolean> {
  return (await readEntry(cache, origin)) !== null
}

/** The small picture of a frame, or null when the pass has not come to it. */
export async function readPreview(cache: string, origin: Origin): Promise<Buffer | null> {
  const e = await readEntry(cache, origin)
  const pack = e && (await opened(fileOf(cache, origin.content, `${e.pack}.pack`)))
  if (!pack) return null
  const jpeg = Buffer.alloc(e.length)
  const { bytesRead } = await pack.read(jpeg, 0, e.length, e.offset)
  return bytesRead === e.length ? jpeg : null
}

/** Packed traces of `count` frames of a file from `origin` on; null when one is not there. */
export async function readTraces(cache: string, { content, frame }: Origin, count: Frames): Promise<Buffer | null> {
  const traces = await opened(fileOf(cache, content, 'traces'))
  const bytes = Buffer.alloc(count * traceSize)
  const read = await traces?.read(bytes, 0, bytes.length, frame * traceSize)
  return read?.bytesRead === bytes.length ? bytes : null
}
