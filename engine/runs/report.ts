import { randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { rename, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { sheetItemSchema, type SheetItem } from '../../core/deliverable/sheet'
import type { Db } from '../store/database'
import type { Roots } from '../storage/roots'
import type { Proof } from '../worker/steps/prove'

/** One finished deliverable as the report tells it; docs/report.md describes the JSON. */
export interface ReportEntry {
  readonly path: string
  readonly title: string
  readonly region: string
  readonly frames: number
  readonly verdict: string
  readonly checksums: Proof['checksums']
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

export function reportEntry(item: SheetItem, finalPath: string, proof: Proof): ReportEntry {
  return {
    path: finalPath,
    title: item.title,
    region: item.region.name,
    frames: item.region.out - item.region.in,
    verdict: proof.verdict,
    checksums: proof.checksums,
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
  place: { db: Db; roots: Roots },
  runId: string,
  { outlet, target, spec }: SheetItem,
): Promise<void> {
  let written = ''
  for (;;) {
    const rows = await place.db.selectFrom('item').selectAll().where('run_id', '=', runId).orderBy('position').execute()
    const own = rows
      .map((row) => ({ row, item: sheetItemSchema.parse(JSON.parse(row.sheet)) }))
      .filter(({ item }) => item.outlet.id === outlet.id && item.target.root === target.root)
    // a name is noted shortly before the file bears it
    const named = own.filter(
      ({ row }) =>
        row.result &&
        row.final_path &&
        (row.state === 'done' ||
          (row.state === 'running' && existsSync(place.roots.resolve(target.root, row.final_path)))),
    )
    const entries = named.map(({ row, item }) => reportEntry(item, row.final_path!, JSON.parse(row.result!) as Proof))
    if (JSON.stringify(entries) === written) return
    written = JSON.stringify(entries)
    const folder = folderOf(own.map(({ item }) => item.target.path))
    const stem = `handover-${runId}-${outlet.id}`
    const save = async (name: string, text: string) => {
      const full = place.roots.resolve(target.root, path.posix.join(folder, name))
      const part = `${full}.${randomBytes(4).toString('hex')}.part`
      await writeFile(part, text)
      await rename(part, full)
    }
    await save(
      `${stem}.json`,
      JSON.stringify(
        {
          format: 'velvet-crane-report/1',
          run: runId,
          outlet: outlet.name,
          specification: spec.name,
          written: new Date().toISOString(),
          files: entries,
        },
        null,
        2,
      ),
    )
    await save(
      `${stem}.sha256`,
      entries.map((e) => `${e.checksums.sha256}  ${path.posix.relative(folder, e.path)}\n`).join(''),
    )
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
