import { mkdir, readdir, readFile, rename } from 'node:fs/promises'
import path from 'node:path'
import { manifestOf } from '../../../core/deliverable/manifest'
import { checksumsFor } from '../../../core/deliverable/sheet'
import type { Sums } from '../../../core/files/checksums'
import { filesOf } from '../../../core/files/fileset'
import { sumListText } from '../../../core/files/sumlist'
import { fail } from '../../../core/problem'
import { fileBase } from '../../../core/recipe/output'
import type { StillPlace } from '../../../core/stills/still'
import { plural } from '../../../core/text'
import type { Frames } from '../../../core/time/rate'
import { formatTimecode } from '../../../core/time/timecode'
import { writeWhole } from '../../storage/durable'
import { sumsOfBytes } from '../../storage/hashing'
import { placeOfFrame } from './coded'
import { claimedFile, type DeliverableStep } from '../context'
import { unitSummer } from './looks'
import { reelAt } from './reel'

/** Where stills of a deliverable stand until they are proven, below its scratch folder. */
const folderName = 'stills'

/** What a step made that writes stills. */
export interface MadeStills {
  /** Their run, or the one file, below the scratch folder. */
  readonly file: string
  /** XXH32 of each as it was written, in order: eight hexadecimal digits each. */
  readonly sums: string
  /** A scratch file of what was looked at of their pictures; absent of what is copied. */
  readonly looks?: string
}

/** Names a deliverable's stills and keeps them: each is whole before it bears its name. */
export async function stillsOf(step: DeliverableStep) {
  const { item, folder } = step
  const target = path.join(folderName, path.basename(item.target.path))
  const names = filesOf(target) ?? [target]
  const base = fileBase(item)
  const sum = await unitSummer()
  const sums: string[] = []
  await mkdir(path.join(folder, folderName), { recursive: true })
  return {
    placeOf: (n: Frames): StillPlace => ({
      ...{ name: path.basename(names[n]!), rate: base.rate, timecode: formatTimecode(base.start + n, base) },
      ...{ position: n, length: item.output.frames, reel: reelAt(step, n) },
    }),
    async keep(n: Frames, bytes: Uint8Array): Promise<void> {
      const part = claimedFile(step, path.basename(names[n]!))
      await writeWhole(part, bytes)
      await rename(part, path.join(folder, names[n]!))
      sums.push(sum(bytes))
      step.progress(sums.length)
    },
    made: (): MadeStills => ({ file: target, sums: sums.join('') }),
  }
}

/**
 * Reads every still of a deliverable back from the disk: each is there, once, and is what was written; there is
 * nothing else beside them. Of a run the lists of sums are put into their folder, so that they leave with it.
 */
export async function checkStills(step: DeliverableStep, scratch: string): Promise<void> {
  const run = filesOf(scratch)
  const files = run ?? [scratch]
  const made = step.item.steps.flatMap(({ key }) => (step.needed.get(key) as MadeStills | undefined)?.sums ?? [])
  const written = made.join('')
  const again = 'Run it again; if it happens again, report it with the run sheet.'
  const kinds = checksumsFor(step.item)
  const lists = new Map(run ? kinds.map((k) => [k, manifestOf(scratch, k)]) : [])
  const own = new Set([...lists.values()].map((list) => path.basename(list)))
  const there = (await readdir(path.dirname(scratch))).filter((n) => !own.has(n))
  if (there.length !== files.length || written.length !== 8 * files.length)
    fail(
      'prove.stills',
      `There are ${plural(there.length, 'still')}, of which ${written.length / 8} were written; ` +
        `${files.length} were asked for.`,
      step.item.target.path,
      again,
    )
  const sum = await unitSummer()
  const sums: ({ path: string } & Sums)[] = []
  for (const [i, file] of files.entries()) {
    const bytes = await readFile(file).catch(() => null)
    if (!bytes || sum(bytes) !== written.slice(i * 8, i * 8 + 8))
      fail(
        'prove.still',
        bytes ? 'A still is not what was written.' : `The still ${path.basename(file)} is missing.`,
        placeOfFrame(step, i),
        again,
      )
    if (run) sums.push({ path: path.basename(file), ...(await sumsOfBytes(bytes, kinds)) })
    step.progress(0)
  }
  for (const [kind, list] of lists) {
    await writeWhole(list, sumListText(sums.map((s) => ({ path: s.path, sum: s[kind]! }))))
  }
}
