import { readdir, rm, stat } from 'node:fs/promises'
import path from 'node:path'

/** What stretches that were made to be looked at may take up, bytes. */
const spare = 10 * 2 ** 30

/** Folders in which one is being made are left alone for so long, ms. */
const longest = 60 * 60 * 1000

const begin = 'tryout-'
const making = 'making-'

/** The name of a stretch's file in the cache. */
export const tryoutFile = (id: string, ending: string): string => `${begin}${id}${ending}`

/** The beginning of the name of a folder in which one is made. */
export const tryoutFolder = (cache: string): string => path.join(cache, making)

export const isTryout = (name: string): boolean => name.startsWith(begin)

/** Removes the oldest stretches once all of them take more room than `most`, and what was left half made. */
export async function clearTryouts(cache: string, most = spare, now = Date.now()): Promise<void> {
  const files: { file: string; bytes: number; at: number }[] = []
  for (const name of await readdir(cache)) {
    const file = path.join(cache, name)
    const s = await stat(file).catch(() => null)
    if (s?.isFile() && isTryout(name)) files.push({ file, bytes: s.size, at: s.mtimeMs })
    else if (s?.isDirectory() && name.startsWith(making) && now - s.mtimeMs > longest)
      await rm(file, { recursive: true, force: true })
  }
  let room = most
  for (const { file, bytes } of files.sort((a, b) => b.at - a.at)) {
    room -= bytes
    if (room < 0) await rm(file, { force: true })
  }
}
