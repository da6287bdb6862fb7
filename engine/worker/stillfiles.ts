import { createHash } from 'node:crypto'
import { readdir, readFile } from 'node:fs/promises'
import path from 'node:path'
import { manifestOf, manifestText } from '../../core/deliverable/manifest'
import { filesOf } from '../../core/files/fileset'
import { fail } from '../../core/problem'
import { plural } from '../../core/text'
import { fileSink } from '../storage/disk'
import { placeOfFrame } from './coded'
import type { DeliverableStep } from './context'
import { unitSummer } from './looks'

/** What a step made that writes stills. */
export interface MadeStills {
  /** Their run, or the one file, below the scratch folder. */
  readonly file: string
  /** XXH32 of each as it was written, in order: eight hexadecimal digits each. */
  readonly sums: string
}

/**
 * Reads every still of a deliverable back from the disk: each is there, once, and is what was written; there is
 * nothing else beside them. Of a run the list of sums is put into their folder, so that they leave with it.
 */
export async function checkStills(step: DeliverableStep, scratch: string): Promise<void> {
  const run = filesOf(scratch)
  const files = run ?? [scratch]
  const made = step.item.steps.flatMap(({ key }) => (step.needed.get(key) as MadeStills | undefined)?.sums ?? [])
  const written = made.join('')
  const again = 'Run it again; if it happens again, report it with the run sheet.'
  const list = path.basename(manifestOf(scratch))
  const there = (await readdir(path.dirname(scratch))).filter((n) => !run || n !== list)
  if (there.length !== files.length || written.length !== 8 * files.length)
    fail(
      'prove.stills',
      `There are ${plural(there.length, 'still')}, of which ${written.length / 8} were written; ` +
        `${files.length} were asked for.`,
      step.item.target.path,
      again,
    )
  const sum = await unitSummer()
  const sums: { name: string; sha256: string }[] = []
  for (const [i, file] of files.entries()) {
    const bytes = await readFile(file).catch(() => null)
    if (!bytes || sum(bytes) !== written.slice(i * 8, i * 8 + 8))
      fail(
        'prove.still',
        bytes ? 'A still is not what was written.' : `The still ${path.basename(file)} is missing.`,
        placeOfFrame(step, i),
        again,
      )
    sums.push({ name: path.basename(file), sha256: createHash('sha256').update(bytes).digest('hex') })
    step.progress(0)
  }
  if (!run) return
  const sink = await fileSink(manifestOf(scratch))
  await sink.write(0, new TextEncoder().encode(manifestText(sums)))
  await sink.finish()
}
