import { programmeFrames } from '../lineup/lineup'
import type { AcceptedFault } from '../split/accepted'
import type { FrozenDeliverable } from './sheet'
import { mainFile, type Proof } from './proof'

/** One finished deliverable as the handover report tells it; docs/report.md describes the JSON. */
export interface ReportEntry {
  readonly path: string
  readonly title: string
  readonly region: string
  readonly frames: number
  /** Pictures that were decoded when it was proven; absent of sound alone, and where an earlier edition proved it. */
  readonly decoded?: number
  readonly verdict: string
  readonly checksums: { readonly sha256: string; readonly xxh64: string }
  /** Faults of the split at its region that were accepted at the desk; absent where there are none. */
  readonly accepted?: readonly AcceptedFault[]
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
    frames: programmeFrames(item.output),
    ...(proof.decoded === undefined ? {} : { decoded: proof.decoded }),
    verdict: proof.verdict,
    checksums: { sha256, xxh64 },
    ...(item.accepted ? { accepted: item.accepted } : {}),
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
