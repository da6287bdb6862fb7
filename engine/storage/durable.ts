import { mkdir, open, rename, type FileHandle } from 'node:fs/promises'
import path from 'node:path'

// What a power cut leaves: a file whole or not at all, and a name that was given.

/** Flushes a file to the disk. */
export async function flushFile(file: string): Promise<void> {
  const handle = await open(file, 'r+')
  await handle.sync().finally(() => handle.close())
}

/** What systems answer that cannot flush a folder, and keep its names by themselves. */
const unflushable = new Set(['EISDIR', 'EPERM', 'EACCES', 'EINVAL', 'ENOTSUP'])

/** Flushes the names in a folder to the disk. */
export async function flushFolder(folder: string): Promise<void> {
  try {
    const handle = await open(folder, 'r')
    await handle.sync().finally(() => handle.close())
  } catch (e) {
    if (!unflushable.has((e as NodeJS.ErrnoException).code ?? '')) throw e
  }
}

/** Makes a folder and those above it that are missing, so that they stay. */
export async function makeFolder(folder: string): Promise<void> {
  const first = await mkdir(folder, { recursive: true })
  if (!first) return
  for (let at = folder; at.length >= first.length; at = path.dirname(at)) await flushFolder(path.dirname(at))
}

/** Writes at a place of an open file, all of it: a disk that is nearly full takes only a part at first. */
export async function writeAll(handle: FileHandle, bytes: Uint8Array, offset: number): Promise<void> {
  for (let at = 0; at < bytes.length;) {
    const { bytesWritten } = await handle.write(bytes, at, bytes.length - at, offset + at)
    at += bytesWritten
  }
}

/** Writes a file and flushes it. */
export async function writeWhole(file: string, bytes: Uint8Array | string): Promise<void> {
  const handle = await open(file, 'w')
  try {
    await handle.writeFile(bytes)
    await handle.sync()
  } finally {
    await handle.close()
  }
}

/** Replaces a file by one written elsewhere on its disk: whoever looks, whenever, sees the old one or the new one. */
export async function replaceFile(file: string, bytes: Uint8Array | string, scratch: string): Promise<void> {
  await writeWhole(scratch, bytes)
  await rename(scratch, file)
  await flushFolder(path.dirname(file))
}
