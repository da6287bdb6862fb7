import { randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { rename, writeFile } from 'node:fs/promises'
import path from 'node:path'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import type { NamedFile, WorkerPorts } from './ports'
import { mainFile, type Proof } from '../../core/deliverable/proof'

/** One finished deliverable as the report tells it; docs/report.md describes the JSON. */
export interface ReportEntry {
  readonly path: string
  readonly title: string
  readonly region: string
  readonly frames: number
  readonly verdict: string
  readonly checksums: { readonly sha256: string; readonly xxh64: string }
  readonly rules: readonly {
    id: string
    measure: string
    required: string
    written: string | null
    verdict: string
    clause: string
    waiver: string | null
  }[]
}

export function reportEntry(item: FrozenDeliverable, finalPath: string, proof: Proof): ReportEntry {
  const { sha256, xxh64 } = mainFile(proof)
  return {
    path: finalPath,
    title: item.title,
    region: item.region.name,
    frames: item.region.out - item.region.in,
    verdict: proof.verdict,
    checksums: { sha256, xxh64 },
    rules: proof.results.map((r) => ({
      id: r.rule.id,
      measure: r.rule.measure,
      required: r.required,
      written: r.written?.text ?? null,
      verdict: r.verdict,
      clause: r.rule.clause,
      waiver: r.waiver ? `${r.waiver.initials}: ${r.waiver.reason}` : null,
    })),
  }
}

/**
 * Writes an outlet's report and checksum list of a run beside its files, anew with every file that has its final name.
 * Several workers may finish at once: whoever has written looks again, until what is written is all there is.
 */
export async function writeReport(
  { sheets, storage }: Pick<WorkerPorts, 'sheets' | 'storage'>,
  run: string,
  { outlet, target, spec }: FrozenDeliverable,
): Promise<void> {
  let written = ''
  for (;;) {
    const own = (await sheets.siblings(run, outlet.id)).filter((s) => s.deliverable.target.root === target.root)
    const there = (p: string) => existsSync(storage.resolve(target.root, p))
    // a name is noted shortly before the file bears it
    const named = own.filter((s): s is NamedFile & { path: string; proof: Proof } =>
      Boolean(s.path && s.proof && (s.done || there(s.path))),
    )
    const entries = named.map((s) => reportEntry(s.deliverable, s.path, s.proof))
    if (JSON.stringify(entries) === written) return
    written = JSON.stringify(entries)
    const folder = folderOf(own.map((s) => s.deliverable.target.path))
    const stem = `handover-${run}-${outlet.id}`
    const save = (name: string, text: string) =>
      replaceFile(storage.resolve(target.root, path.posix.join(folder, name)), text)
    const report = {
      format: 'velvet-crane-report/1',
      run,
      outlet: outlet.name,
      specification: spec.name,
      written: new Date().toISOString(),
      files: entries,
    }
    await save(`${stem}.json`, JSON.stringify(report, null, 2))
    const sums = entries.map((e) => `${e.checksums.sha256}  ${path.posix.relative(folder, e.path)}\n`)
    await save(`${stem}.sha256`, sums.join(''))
  }
}

async function replaceFile(full: string, text: string): Promise<void> {
  const part = `${full}.${randomBytes(4).toString('hex')}.part`
  await writeFile(part, text)
  await rename(part, full)
}

/** The deepest folder that holds all paths. */
export function folderOf(paths: readonly string[]): string {
  const split = paths.map((p) => p.split('/').slice(0, -1))
  const first = split[0] ?? []
  let n = first.length
  for (const s of split) while (n > 0 && first.slice(0, n).join('/') !== s.slice(0, n).join('/')) n--
  return first.slice(0, n).join('/')
}
