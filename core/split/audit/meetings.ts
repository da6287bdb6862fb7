import { listed } from '../../text'
import type { Frames } from '../../time/rate'
import { lengthText } from '../../time/timecode'
import { moveEdge } from '../edit'
import type { Region } from '../region'
import { called, type AuditOptions, type Finding } from './finding'

/** Two regions of which one holds all of the other: a season and its episodes, an episode and its parts. */
const nested = (a: Region, b: Region) => (a.in <= b.in && b.out <= a.out) !== (b.in <= a.in && a.out <= b.out)

function overlap(before: Region, r: Region, length: Frames, { rate }: AuditOptions): Finding {
  const shared = { in: r.in, out: Math.min(r.out, before.out) }
  const label = `End ${called(before)} where ${called(r)} begins`
  return {
    kind: 'overlap',
    severity: 'caution',
    regions: [before.id, r.id],
    range: shared,
    text: `${called(before)} and ${called(r)} share ${lengthText(shared.out - shared.in, rate)}`,
    fix: r.in > before.in ? { label, apply: (s) => moveEdge(s, before.id, 'out', r.in, length) } : null,
  }
}

/** Frames that one recipient gets in two files, since one region holds the other. */
function twice(before: Region, r: Region, { outlets, rate }: AuditOptions): Finding[] {
  const also = new Set(outlets?.get(r.id) ?? [])
  const both = (outlets?.get(before.id) ?? []).filter((o) => also.has(o))
  const range = { in: Math.max(before.in, r.in), out: Math.min(before.out, r.out) }
  if (both.length === 0) return []
  const frames = lengthText(range.out - range.in, rate)
  const who = `${listed(both)} ${both.length > 1 ? 'get' : 'gets'}`
  const text = `${who} ${frames} in both ${called(before)} and ${called(r)}`
  return [{ kind: 'twice', severity: 'caution', regions: [before.id, r.id], range, of: listed(both), fix: null, text }]
}

/** Where regions share frames, or stand nearer than asked for. */
export function meetings(list: readonly Region[], length: Frames, options: AuditOptions): Finding[] {
  const out: Finding[] = []
  let reach: Region | null = null
  let open: Region[] = []
  for (const r of list) {
    open = open.filter((before) => before.out > r.in)
    for (const before of open)
      if (nested(before, r)) out.push(...twice(before, r, options))
      else out.push(overlap(before, r, length, options))
    if (reach && open.length === 0 && options.gap > 0 && r.in - reach.out < options.gap)
      out.push({
        kind: 'no-gap',
        severity: 'caution',
        regions: [reach.id, r.id],
        range: { in: reach.out, out: r.in },
        of: String(options.gap),
        fix: null,
        text:
          `${called(reach)} and ${called(r)} are ${lengthText(r.in - reach.out, options.rate)} apart; ` +
          `${lengthText(options.gap, options.rate)} are asked for`,
      })
    open.push(r)
    if (!reach || r.out > reach.out) reach = r
  }
  return out
}
