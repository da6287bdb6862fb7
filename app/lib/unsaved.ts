import type { History } from '../../core/split/history'
import type { Clash } from '../../core/split/merge'
import { applyPatch, diffSplit, type Patch } from '../../core/split/patch'
import type { Split } from '../../core/split/region'

/**
 * What has not reached the server of a split: the version it was made from, how what is changed was in it, what was on
 * its way as the next one, and what came after that. Changes, not whole splits: it is kept with every step.
 */
interface Unsaved {
  readonly version: number
  readonly was: Patch
  readonly sent: Patch | null
  readonly more: Patch
}

/** A split on the desk: as the server had it, as it was sent to it, and as it is. */
export interface Pending {
  readonly kept: Split
  readonly sent: Split | null
  readonly split: Split
}

const keyOf = (id: string) => `velvet.unsaved.${id}`

/** Keeps what a reload would lose. */
export function keepUnsaved(id: string, version: number, { kept, sent, split }: Pending): void {
  try {
    const left: Unsaved = {
      version,
      was: diffSplit(split, kept),
      sent: sent && diffSplit(kept, sent),
      more: diffSplit(sent ?? kept, split),
    }
    sessionStorage.setItem(keyOf(id), JSON.stringify(left))
  } catch {
    /* the browser's room is full: it is saved all the same */
  }
}

/** What a reload left unsaved, beside what the server has now: what others changed since, `kept` has as it was. */
export function leftUnsaved(id: string, now: Split, version: number): Pending | null {
  const text = sessionStorage.getItem(keyOf(id))
  if (!text) return null
  const left = JSON.parse(text) as Unsaved
  const kept = version === left.version ? now : applyPatch(now, left.was)
  const sent = left.sent && applyPatch(kept, left.sent)
  return { kept, sent, split: applyPatch(sent ?? kept, left.more) }
}

export const forgetUnsaved = (id: string) => sessionStorage.removeItem(keyOf(id))

const clashesOf = (id: string) => `velvet.clashes.${id}`

/** Clashes of a split that nobody had settled before a reload. */
export function leftClashes(id: string): readonly Clash[] {
  return JSON.parse(sessionStorage.getItem(clashesOf(id)) ?? '[]') as Clash[]
}

/** Keeps clashes until they are settled. */
export function keepClashes(id: string, clashes: readonly Clash[]): void {
  if (clashes.length) sessionStorage.setItem(clashesOf(id), JSON.stringify(clashes))
  else sessionStorage.removeItem(clashesOf(id))
}

const stepsOf = (id: string) => `velvet.history.${id}`

/** Keeps the steps that led to a version of a split; fewer of them where the browser's room is full. */
export function keepSteps(id: string, version: number, { past, present, future }: History<Split>): void {
  for (let n = 30; n > 0; n >>= 1)
    try {
      const history = { past: past.slice(-n), present, future: future.slice(0, n) }
      sessionStorage.setItem(stepsOf(id), JSON.stringify({ version, history }))
      return
    } catch {
      sessionStorage.removeItem(stepsOf(id))
    }
}

/** The steps that led to a version of a split before a reload; null where another version is the newest. */
export function leftSteps(id: string, version: number): History<Split> | null {
  const text = sessionStorage.getItem(stepsOf(id))
  const left = text === null ? null : (JSON.parse(text) as { version: number; history: History<Split> })
  return left?.version === version ? left.history : null
}
