import { copyFile, open, rename, rm } from 'node:fs/promises'
import type { FileSink } from '../../storage/disk'
import { fileSink } from '../../storage/disk'

/** Thrown when a shared file was replaced while a step wrote into it: the step is done again. */
export class Superseded extends Error {}

/** A file that several steps write into at once, each in its own place. */
export interface SharedFile extends FileSink {
  /** Flushes, and makes sure that what was written is in the file that goes on. Throws {@link Superseded}. */
  finish(): Promise<void>
}

/**
 * Opens a shared file. When a worker that was lost may still be writing into it, the file is replaced by a copy first:
 * whatever the lost one writes goes into a file that has no name any more. Steps that are writing meanwhile find out
 * as they finish, and are done again.
 */
export async function sharedFile(file: string, takenOver: boolean): Promise<SharedFile> {
  if (takenOver) await replace(file)
  await (await open(file, 'a')).close()
  const before = await identity(file)
  const sink = await fileSink(file, true)
  return {
    ...sink,
    async finish() {
      await sink.finish()
      if ((await identity(file)) !== before) throw new Superseded()
    },
  }
}

async function identity(file: string): Promise<string> {
  try {
    // opened, not only asked for: a disk over a network answers from what it knew a while ago until a file is opened
    const handle = await open(file, 'r')
    const { dev, ino } = await handle.stat({ bigint: true }).finally(() => handle.close())
    return `${dev}:${ino}`
  } catch {
    return ''
  }
}

async function replace(file: string): Promise<void> {
  const old = `${file}.old`
  try {
    // out of the way first: who finishes from now on sees that it was replaced
    await rename(file, old)
  } catch {
    return
  }
  await copyFile(old, `${file}.new`)
  await rename(`${file}.new`, file)
  await rm(old, { force: true })
}
