import path from 'node:path'
import type { Reading, Readings } from '../../../core/measure/measure'
import { ProblemError, type Problem } from '../../../core/problem'
import type { Frames } from '../../../core/time/rate'
import { checkFingerprint } from '../../storage/fingerprint'
import type { BackgroundStep } from '../background'
import { measureFile } from '../measurefile'

/** What was measured of a file from elsewhere, or why nothing could be. */
export type FileMeasured = { readonly readings: Readings } | { readonly problem: Problem }

/** What is wrong here, and not with the file: it is for the queue to say, and to try again. */
const ours = /^(file\.(missing|not-allowed)|media\.replaced|disk|root|internal)/

/** Measures a file that came from elsewhere: everything a specification can ask of it. */
export async function measureReceived({ payload, storage, progress, claim }: BackgroundStep): Promise<FileMeasured> {
  const { root, path: below, fingerprint } = payload.source
  const file = storage.resolve(root, below)
  await checkFingerprint(file, fingerprint, below)
  const told = (frame: Frames, of: Frames) => progress(Math.floor((claim.frames * frame) / of))
  try {
    return { readings: mapped(await measureFile(file, path.basename(below), told), kept) }
  } catch (e) {
    if (e instanceof ProblemError && !ours.test(e.problem.code)) return { problem: e.problem }
    throw e
  }
}

/** −∞ LUFS, which JSON has no number for. */
const silence = '-Infinity'

/** Readings as they were measured, out of what was kept of them. */
export const readingsOf = (readings: Readings): Readings => mapped(readings, (v) => (v === silence ? -Infinity : v))

const kept = (v: unknown) => (v === -Infinity ? silence : v)

/** Readings with every value, and every one of several numbers, as something else. */
function mapped(readings: Readings, of: (v: unknown) => unknown): Readings {
  const value = (v: Reading['value']) => (Array.isArray(v) ? v.map(of) : of(v)) as Reading['value']
  return Object.fromEntries(Object.entries(readings).map(([name, r]) => [name, { ...r, value: value(r.value) }]))
}
