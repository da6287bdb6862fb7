import { isMade, leadOf, placed, programmeFrames, timelineSections } from '../lineup/lineup'
import { sectionKind } from '../lineup/registry'
import type { MadeSection, Placed } from '../lineup/section'
import type { Sums } from '../files/checksums'
import { fileBase, type Output } from '../recipe/output'
import { formatTimecode, type TimeBase } from '../time/timecode'
import type { AcceptedFault } from '../split/accepted'
import type { FrozenDeliverable } from './sheet'
import { mainFile, type Proof } from './proof'

/** One finished deliverable as the handover report tells it; docs/report.md describes the JSON. */
export interface ReportEntry {
  readonly path: string
  readonly title: string
  readonly region: string
  readonly frames: number
  /** What the file is made of, in order; absent of a file that is of its region alone. */
  readonly sections?: readonly ReportSection[]
  /** Pictures that were decoded when it was proven; absent of sound alone, and where an earlier edition proved it. */
  readonly decoded?: number
  readonly verdict: string
  readonly checksums: Sums
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

/** A stretch of a file: `programme`, `part 1` …, `break`, or line-up; label of its first frame, and its length. */
export interface ReportSection {
  readonly what: string
  readonly start: string
  readonly length: string
}

export function sectionsTold(file: { readonly output: Output; readonly timeline: TimeBase }): ReportSection[] {
  const { output } = file
  const base = fileBase(file)
  const lead = leadOf(output)
  const parts = timelineSections(output).map((s) => s.at)
  const made = (s: Placed<MadeSection>) => (s.at > lead ? 'break' : sectionKind(s.kind).label)
  const own = (s: Placed) => (parts.length > 1 ? `part ${parts.indexOf(s.at) + 1}` : 'programme')
  return placed(output).map((s) => ({
    what: isMade(s) ? made(s) : own(s),
    start: formatTimecode(base.start + s.at, base),
    length: formatTimecode(s.frames, base),
  }))
}

export function reportEntry(item: FrozenDeliverable, finalPath: string, proof: Proof): ReportEntry {
  return {
    path: finalPath,
    title: item.title,
    region: item.region.name,
    frames: programmeFrames(item.output),
    ...(item.output.sections ? { sections: sectionsTold(item) } : {}),
    ...(proof.decoded === undefined ? {} : { decoded: proof.decoded }),
    verdict: proof.verdict,
    checksums: mainFile(proof).sums,
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
