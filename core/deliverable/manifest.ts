import { endsOf, entryOf, isRun } from '../files/fileset'

/** The list of sums that stands beside the stills of a run, in their folder; `sha256sum -c` reads it. */
export function manifestOf(run: string): string {
  const name = run.slice(run.lastIndexOf('/') + 1).replace(/[._-]?\[.*$/, '')
  return `${entryOf(run)}/${name || 'stills'}.sha256`
}

/** The file whose sums stand for a deliverable: its own, or of a run of stills their list. */
export const summedFile = (path: string): string => (isRun(path) ? manifestOf(path) : path)

/** Files by which it is seen whether a deliverable is still there: of a run its list and its ends. */
export const landmarksOf = (path: string): string[] => [summedFile(path), ...endsOf(path)]

/** What a list of sums says. */
export function manifestText(sums: readonly { readonly name: string; readonly sha256: string }[]): string {
  return sums.map(({ name, sha256 }) => `${sha256}  ${name}\n`).join('')
}
