import { createHash } from 'node:crypto'
import { createReadStream, existsSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { summedFile } from '../../core/deliverable/manifest'

/** SHA-256 of a file, in hexadecimal digits. */
export async function sha256Of(file: string): Promise<string> {
  const sum = createHash('sha256')
  for await (const bytes of createReadStream(file, { highWaterMark: 1 << 20 })) sum.update(bytes as Buffer)
  return sum.digest('hex')
}

/**
 * Whether what was delivered under a name is there, byte for byte: its file by its sum, of a run of stills their list
 * by its sum and every file by the list.
 */
export async function isAsProven(full: string, sha256: string): Promise<boolean> {
  const summed = summedFile(full)
  if (!existsSync(summed) || (await sha256Of(summed)) !== sha256) return false
  if (summed === full) return true
  const folder = path.dirname(summed)
  for (const line of (await readFile(summed, 'utf8')).split('\n').filter(Boolean)) {
    const file = path.join(folder, path.basename(line.slice(66)))
    if (!existsSync(file) || (await sha256Of(file)) !== line.slice(0, 64)) return false
  }
  return true
}
