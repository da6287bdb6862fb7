import { open, type FileHandle } from 'node:fs/promises'
import path from 'node:path'

/**
 * A small picture of every frame of one media file, in two files: the JPEGs one after the other (`.pack`), and 12 bytes for each
 * frame saying where it is (`.index`: offset as a 64-bit float, length as a 32-bit integer, little-endian). Length zero: not there yet.
 */
export const previewWidth = 480
const entry = 12

function names(cache: string, content: string) {
  return { pack: path.join(cache, `${content}.pack`), index: path.join(cache, `${content}.index`) }
}

/** Writes previews as an analysis goes. Begins anew at frame 0. */
export async function previewWriter(cache: string, content: string) {
  const n = names(cache, content)
  const pack = await open(n.pack, 'w')
  const index = await open(n.index, 'w')
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

const handles = new Map<string, Promise<{ pack: FileHandle, index: FileHandle }>>()

/** The preview of a frame, or null when the analysis has not come to it. */
export async function readPreview(cache: string, content: string, frame: number): Promise<Buffer | null> {
  const n = names(cache, content)
  let opened = handles.get(n.pack)
  if (!opened) {
    opened = (async () => ({ pack: await open(n.pack, 'r'), index: await open(n.index, 'r') }))()
    handles.set(n.pack, opened)
    opened.catch(() => handles.delete(n.pack))
  }
  const files = await opened.catch(() => null)
  if (!files) return null
  const e = Buffer.alloc(entry)
  const { bytesRead } = await files.index.read(e, 0, entry, frame * entry)
  const length = e.readUInt32LE(8)
  if (bytesRead < entry || length === 0) return null
  const jpeg = Buffer.alloc(length)
  await files.pack.read(jpeg, 0, length, e.readDoubleLE(0))
  return jpeg
}
