import { existsSync } from 'node:fs'
import path from 'node:path'
import { summedFile } from '../../../core/deliverable/manifest'
import { checksumKinds } from '../../../core/files/checksums'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import { endsOf, entryOf, isRun } from '../../../core/files/fileset'
import { sumListText } from '../../../core/files/sumlist'
import { replaceFile } from '../../storage/durable'
import type { WorkerPorts } from '../ports'

/**
 * Writes an outlet's report and checksum lists of a run beside its files, anew with every file that has its final name.
 * Several workers may finish at once: whoever has written looks again, until what is written is all there is. `scratch`
 * is a folder of the caller's own on the same disk.
 */
export async function writeReport(
  { sheets, storage }: Pick<WorkerPorts, 'sheets' | 'storage'>,
  run: string,
  { outlet, target, spec }: FrozenDeliverable,
  scratch: string,
): Promise<void> {
  let written = ''
  for (;;) {
    const own = (await sheets.siblings(run, outlet.id)).filter((s) => s.target.root === target.root)
    const there = (p: string) => existsSync(storage.resolve(target.root, isRun(p) ? endsOf(p)[0]! : p))
    // a name is noted shortly before the file bears it
    const entries = own.flatMap(({ entry, done }) => (entry && (done || there(entry.path)) ? [entry] : []))
    if (JSON.stringify(entries) === written) return
    written = JSON.stringify(entries)
    const folder = folderOf(own.map((s) => entryOf(s.target.path)))
    const stem = `handover-${run}-${outlet.id}`
    const save = (name: string, text: string) =>
      replaceFile(storage.resolve(target.root, path.posix.join(folder, name)), text, path.join(scratch, name))
    const report = {
      format: 'velvet-crane-report/1',
      run,
      outlet: outlet.name,
      specification: spec.name,
      written: new Date().toISOString(),
      files: entries,
    }
    await save(`${stem}.json`, JSON.stringify(report, null, 2))
    for (const { name, ending } of checksumKinds) {
      const lines = entries.flatMap(({ path: file, checksums: { [name]: sum } }) =>
        sum === undefined ? [] : [{ sum, path: path.posix.relative(folder, summedFile(file, name)) }],
      )
      if (lines.length > 0) await save(`${stem}${ending}`, sumListText(lines))
    }
  }
}

/** The deepest folder that holds all paths. */
export function folderOf(paths: readonly string[]): string {
  const split = paths.map((p) => p.split('/').slice(0, -1))
  const first = split[0] ?? []
  let n = first.length
  for (const s of split) while (n > 0 && first.slice(0, n).join('/') !== s.slice(0, n).join('/')) n--
  return first.slice(0, n).join('/')
}
