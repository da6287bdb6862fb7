import { open, stat, type FileHandle } from 'node:fs/promises'
import path from 'node:path'
import type { ByteSink, ByteSource } from '../../core/bytes'
import { fail } from '../../core/problem'
import { writeAll } from './durable'

export interface OpenFile extends ByteSource {
  close(): Promise<void>
}

/** A source over a file on disk. Small reads near each other are served from one block. */
export async function openFile(file: string, name = path.basename(file)): Promise<OpenFile> {
  const info = await stat(file)
  if (!info.isFile()) fail('file.not-a-file', 'This is a folder, not a file.', name, 'Choose a file.')
  const handle = await open(file, 'r')
  const blockSize = 1 << 16
  let block = new Uint8Array(0)
  let blockAt = -1
  return {
    name,
    size: info.size,
    async read(offset, length) {
      const n = Math.max(0, Math.min(length, info.size - offset))
      if (n === 0) return new Uint8Array(0)
      if (blockAt >= 0 && offset >= blockAt && offset + n <= blockAt + block.length)
        return block.slice(offset - blockAt, offset - blockAt + n)
      if (n <= 4096) {
        const fresh = await readFully(handle, offset, Math.min(blockSize, info.size - offset))
        block = fresh
        blockAt = offset
        return fresh.slice(0, n)
      }
      return readFully(handle, offset, n)
    },
    close: () => handle.close(),
  }
}

async function readFully(handle: FileHandle, offset: number, length: number): Promise<Uint8Array<ArrayBuffer>> {
  const out = new Uint8Array(length)
  let at = 0
  while (at < length) {
    const { bytesRead } = await handle.read(out, at, length - at, offset + at)
    if (bytesRead === 0) return out.slice(0, at)
    at += bytesRead
  }
  return out
}

export interface FileSink extends ByteSink {
  /** Flushes to the disk and closes. */
  finish(): Promise<void>
  close(): Promise<void>
}

/** A sink over a file; `keep` opens what is there instead of starting anew. */
export async function fileSink(file: string, keep = false): Promise<FileSink> {
  const handle = await open(file, keep ? 'r+' : 'w+')
  return {
    async write(offset, bytes) {
      await writeAll(handle, bytes, offset)
    },
    async finish() {
      await handle.sync().finally(() => handle.close())
    },
    close: () => handle.close(),
  }
}
