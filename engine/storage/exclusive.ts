import { link, mkdir, open, rename, rmdir, unlink } from 'node:fs/promises'
import path from 'node:path'
import { fail } from '../../core/problem'
import { flushFolder } from './durable'

/**
 * Moves a file to a name of the same file system unless it is taken; false when it is. A hard link fails when the name
 * is taken in the meantime, where a rename would overwrite; where there are no links, an empty file takes the name
 * first. A name that was given is on the disk.
 */
export async function moveUnlessTaken(from: string, to: string): Promise<boolean> {
  if (!(await moveFile(from, to))) return false
  await flushFolder(path.dirname(to))
  return true
}

async function moveFile(from: string, to: string): Promise<boolean> {
  try {
    await link(from, to)
    await unlink(from)
    return true
  } catch (e) {
    const code = (e as NodeJS.ErrnoException).code
    if (code === 'EEXIST') return false
    if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'EXDEV' && code !== 'EMLINK') throw e
  }
  try {
    await (await open(to, 'wx')).close()
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code === 'EEXIST') return false
    throw e
  }
  try {
    await rename(from, to)
    return true
  } catch (e) {
    // the name must not stay taken by nothing
    await unlink(to)
    throw e
  }
}

/**
 * Moves a folder to a name of the same file system unless it is taken; false when it is. An empty folder takes the name
 * first: a rename goes over that, and over nothing else.
 */
export async function moveFolderUnlessTaken(from: string, to: string): Promise<boolean> {
  try {
    await mkdir(to)
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code === 'EEXIST') return false
    throw e
  }
  try {
    await rename(from, to)
  } catch (e) {
    await rmdir(to).catch(() => undefined)
    const { code } = e as NodeJS.ErrnoException
    // somebody put something into it meanwhile
    if (code === 'ENOTEMPTY' || code === 'EEXIST') return false
    throw e
  }
  await flushFolder(path.dirname(to))
  return true
}

/** Says that no version of a name is to be had. */
export const noneFree = (name: string): never =>
  fail('name.taken', 'Every version of this name is taken.', name, 'Clear out the folder, or take another name.')
