import { open, type FileHandle } from 'node:fs/promises'
import path from 'node:path'

/** Frames of a segment: what one task of the pass over the pictures goes through, and what one pack of previews holds. */
export const segmentLength = 250

/**
 * A small picture of every frame of one timeline's pictures: for each segment the JPEGs one after the other (`.k.pack`), and 12 bytes
 * for each frame saying where it is (`.index`: offset as a 64-bit float, length as a 32-bit integer, little-endian). Length zero: not
 * there yet. Segments may be written in any order and at the same time.
 */
export const previewWidth = 480
const entry = 12

const packName = (cache: string, content: string, k: number) => path.join(cache, `${content}.${k}.pack`)
const indexName = (cache: string, content: string) => path.join(cache, `${content}.index`)

/** Opens a file for writing in place, made when it is not there. */
export async function openInPlace(file: string): Promise<FileHandle> {
  await (await open(file, 'a')).close()
  return open(file, 'r+')
}

/** Writes the previews of a segment as it goes. */
export async function previewWriter(cache: string, content: string, segment: number) {
  const pack = await open(packName(cache, content, segment), 'w')
  const index = await openInPlace(indexName(cache, content))
  let at = 0
  return {
    async add(frame: number, jpeg: Uint8Array): Promise<void> {
      // the place is taken before anything is awaited: several pictures may be under way
      const offset = at
      at += jpeg.length
      await pack.write(jpeg, 0, jpeg.length, offset)
      const e = Buffer.alloc(entry)
      e.writeDoubleLE(offset, 0)
      e.writeUInt32LE(jpeg.length, 8)
      await index.write(e, 0, entry, frame * entry)
    },
    async close(): Promise<void> {
      await pack.close()
      await index.close()
    },
  }
}

const handles = new Map<string, Promise<FileHandle>>()
function opened(file: string): Promise<FileHandle | null> {
  let handle = handles.get(file)
  if (!handle) {
    handle = open(file, 'r')
    handles.set(file, handle)
    handle.catch(() => handles.delete(file))
    if (handles.size > 200) {
      const [oldest, value] = handles.entries().next().value!
      handles.delete(oldest)
      value.then(h => h.close()).catch(() => undefined)
    }
  }
  return handle.catch(() => null)
}

/** The preview of a frame, or null when the analysis has not come to it. */
export async function readPreview(cache: string, content: string, frame: number): Promise<Buffer | null> {
  const index = await opened(indexName(cache, content))
  if (!index) return null
  const e = Buffer.alloc(entry)
  const { bytesRead } = await index.read(e, 0, entry, frame * entry)
  const length = e.readUInt32LE(8)
  if (bytesRead < entry || length === 0) return null
  const pack = await opened(packName(cache, content, Math.floor(frame / segmentLength)))
  if (!pack) return null
  const jpeg = Buffer.alloc(length)
  const read = await pack.read(jpeg, 0, length, e.readDoubleLE(0))
  return read.bytesRead === length ? jpeg : null
}
