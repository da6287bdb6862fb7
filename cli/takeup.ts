import { createHash } from 'node:crypto'
import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs'
import { homedir, tmpdir } from 'node:os'
import path from 'node:path'
import type { Finished } from '../contract/runs'
import { freeze } from '../core/deliverable/freeze'
import type { JudgedDraft } from '../core/deliverable/judged'
import { mainFile } from '../core/deliverable/proof'
import type { Session } from '../engine/session'
import { isAsProven } from '../engine/storage/delivered'
import { identitySum } from '../engine/store/deliverables'

// An export that was cut off, or that could not make all its files, leaves behind what it knows. The same call finds it
// and makes only what is not there, proven and unchanged.

/** What calls left behind is kept so long, days. */
const keptDays = 30

/** Where calls leave what they know, as the XDG base directory specification has it for state. */
export function stateFolder(...parts: readonly string[]): string {
  const state = process.env.XDG_STATE_HOME ?? path.join(homedir(), '.local', 'state')
  return path.join(state, 'velvet-crane', ...parts)
}

/** The data folder of a call: the same for the same words in the same folder. */
export function folderOfCall(words: readonly string[], where: string): string {
  const own = words.filter((w) => w !== '--anew' && w !== '--json')
  const name = createHash('sha256')
    .update(JSON.stringify([where, own]))
    .digest('hex')
    .slice(0, 16)
  try {
    const all = stateFolder('exports')
    mkdirSync(all, { recursive: true })
    const oldest = Date.now() - keptDays * 24 * 60 * 60 * 1000
    for (const f of readdirSync(all))
      if (statSync(path.join(all, f)).mtimeMs < oldest) rmSync(path.join(all, f), { recursive: true, force: true })
    return path.join(all, name)
  } catch {
    // a home that cannot be written to: then nothing is left behind
    return mkdtempSync(path.join(tmpdir(), 'velvet-export-'))
  }
}

/** Leaves of earlier calls what they finished: everything else is worked out anew by this one. */
export async function forgetUnfinished({ runs, progress, timelines }: Session): Promise<void> {
  for (const { id } of await progress.list()) {
    const { items } = await progress.view(id)
    for (const i of items) if (i.state === 'waiting' || i.state === 'running') await runs.skip(i.id)
  }
  await runs.sweep()
  for (const t of await timelines.list()) await timelines.remove(t.id)
}

/** How many files calls have finished. */
export async function countFinished({ progress }: Session): Promise<number> {
  return (await progress.list()).reduce((n, r) => n + r.done, 0)
}

/** What an earlier call made of these, as long as the files are there, byte for byte. */
export async function madeBefore(
  { handover, roots }: Session,
  judged: readonly JudgedDraft[],
): Promise<Map<JudgedDraft, Finished>> {
  const out = new Map<JudgedDraft, Finished>()
  for (const d of judged) {
    const finished = await handover.newestAs(identitySum(freeze(d, '')))
    if (!finished) continue
    const file = roots.resolve(finished.item.target.root, finished.path)
    if (await isAsProven(file, mainFile(finished.proof).sums)) out.set(d, finished)
  }
  return out
}
