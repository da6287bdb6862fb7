import { stat } from 'node:fs/promises'
import path from 'node:path'
import type { ReceivedFile } from '../../contract/received'
import { checksumKind } from '../../core/files/checksums'
import { isRun } from '../../core/files/fileset'
import { withSums } from '../../core/measure/structure/intact'
import type { Reading } from '../../core/measure/measure'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { Problem } from '../../core/problem'
import { SumLists, type ExpectedSum } from '../storage/listedsums'
import { factKeys } from '../store/facts'

/** A file from elsewhere, with what lists of checksums say of it. */
export interface Found {
  /** Below the storage root. */
  readonly path: string
  readonly size: number
  readonly fingerprint: Fingerprint
  readonly listed: readonly ExpectedSum[]
}

/** The key of what came of holding a file against its lists; null where none names it. */
export const sumsKey = (root: string, { path: below, fingerprint, listed }: Found): string | null =>
  listed.length ? factKeys.listedSums(fingerprint, { root, path: below }, listed) : null

/** Sums that are told one by one, at most. */
const most = 4

/** A reading of a file as a whole, with those of its sums that it has not; null: that is not known yet. */
export function readWithSums(
  reading: Reading,
  media: string,
  listed: readonly ExpectedSum[],
  differ: readonly ExpectedSum[] | null,
): Reading {
  // what is broken by itself stays so
  if (!differ)
    return reading.value === false ? reading : { ...reading, value: null, text: 'its checksums were not looked at yet' }
  const words = (sums: readonly ExpectedSum[], one: boolean) => {
    const of = (e: ExpectedSum) => (one ? `of ${e.file} ` : '')
    const each = [...new Set(sums.map((e) => `${checksumKind(e.kind).label} ${of(e)}in ${e.list}`))]
    return each.length > most ? [...each.slice(0, most), `${each.length - most} more`] : each
  }
  return withSums(reading, differ.length ? [] : words(listed, false), words(differ, isRun(media)))
}

/** What lists of checksums in a folder name and is not there, and lists that are not understood; told below `place`. */
export async function missedBelow(folder: string, place: string): Promise<ReceivedFile[]> {
  if (!(await stat(folder)).isDirectory()) return []
  const lists = new SumLists(folder)
  const row = (below: string, state: ReceivedFile['state'], problem: Problem): ReceivedFile => ({
    ...{ path: path.posix.join(place, below), state, problem },
    ...{ size: 0, share: null, verdict: null, misses: [] },
  })
  const absent = await lists.absent(folder)
  return [
    ...absent.map((f) =>
      row(f.path, 'absent', {
        code: 'received.absent',
        message: `${f.list} names this file, and it is not here.`,
        where: f.path,
        fix: 'Ask for it, or for a list of what was sent.',
      }),
    ),
    ...lists.strange.map((l) => row(l.path, 'unreadable', l.problem)),
  ]
}
