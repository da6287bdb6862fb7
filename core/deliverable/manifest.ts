import { checksumKind, type ChecksumName } from '../files/checksums'
import { entryOf, isRun } from '../files/fileset'

/** The list of sums of a kind that stands beside the stills of a run, in their folder. */
export function manifestOf(run: string, kind: ChecksumName): string {
  const name = run.slice(run.lastIndexOf('/') + 1).replace(/[._-]?\[.*$/, '')
  return `${entryOf(run)}/${name || 'stills'}${checksumKind(kind).ending}`
}

/** The file whose sum stands for a deliverable: its own, or of a run of stills their list. */
export const summedFile = (path: string, kind: ChecksumName): string => (isRun(path) ? manifestOf(path, kind) : path)
