import { existsSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { summedFile } from '../../core/deliverable/manifest'
import { chiefSum, type ChecksumName, type Sums } from '../../core/files/checksums'
import { readSumList } from '../../core/files/sumlist'
import { sumsOfFile } from './hashing'

async function isThere(file: string, kind: ChecksumName, sum: string, progress?: () => void): Promise<boolean> {
  return existsSync(file) && (await sumsOfFile(file, [kind], progress))[kind] === sum
}

/**
 * Whether what was delivered under a name is there, byte for byte: its file by its sum, of a run of stills their list
 * by its sum and every file by the list. `progress` is told while they are read.
 */
export async function isAsProven(full: string, sums: Sums, progress?: () => void): Promise<boolean> {
  const chief = chiefSum(sums)
  if (!chief) return false
  const summed = summedFile(full, chief.kind)
  if (!(await isThere(summed, chief.kind, chief.sum, progress))) return false
  if (summed === full) return true
  const folder = path.dirname(summed)
  const list = readSumList(await readFile(summed, 'utf8'), path.basename(summed))
  for (const s of list.sums)
    if (!(await isThere(path.join(folder, path.basename(s.path)), s.kind, s.sum, progress))) return false
  return true
}
