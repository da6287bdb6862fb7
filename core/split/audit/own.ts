import { listed } from '../../text'
import { overlaps } from '../../time/range'
import type { Frames } from '../../time/rate'
import { lengthText } from '../../time/timecode'
import { moveEdge } from '../edit'
import type { Region } from '../region'
import { called, type AuditOptions, type Finding } from './finding'
import { nameFacts } from './names'

/** Stretches of a region whose media is not there. */
export function withoutMedia(r: Region, { troubles = [], rate }: AuditOptions): Finding[] {
  const own = troubles.filter((t) => t.grave && overlaps(t, r))
  if (own.length === 0) return []
  const frames = own.reduce((n, t) => n + Math.min(t.out, r.out) - Math.max(t.in, r.in), 0)
  const range = { in: Math.max(own[0]!.in, r.in), out: Math.min(own.at(-1)!.out, r.out) }
  const words = listed([...new Set(own.map((t) => t.word))])
  const text = `${called(r)}: ${words} for ${lengthText(frames, rate)}`
  return [{ kind: 'no-media', severity: 'fail', regions: [r.id], range, of: words, fix: null, text }]
}

/** What outlets do not take of a region's length. */
export function refusedLength(r: Region, { lengths }: AuditOptions): Finding[] {
  return (lengths?.get(r.id) ?? []).map(({ why, blocks }) => ({
    ...{ kind: 'length', severity: blocks ? 'fail' : 'caution', regions: [r.id], range: r, fix: null },
    ...{ of: why, text: `${called(r)}: ${why}` },
  }))
}

/** What is wrong with a region by itself: past the end, without a name, or with one that no file can have. */
export function ofOne(r: Region, length: Frames, { rate }: AuditOptions): Finding[] {
  const out: Finding[] = []
  if (r.out > length)
    out.push({
      kind: 'past-end',
      severity: 'fail',
      regions: [r.id],
      range: { in: Math.min(r.in, length), out: r.out },
      text: `${called(r)} runs ${lengthText(r.out - length, rate)} past the end of the timeline`,
      fix:
        r.in < length
          ? { label: 'End it with the timeline', apply: (s) => moveEdge(s, r.id, 'out', length, length) }
          : null,
    })
  if (r.name.trim() === '')
    out.push({
      kind: 'no-name',
      severity: 'caution',
      regions: [r.id],
      range: r,
      text: 'A region has no name',
      fix: null,
    })
  const why = nameFacts(r).unusable
  if (why)
    out.push({
      kind: 'bad-name',
      severity: 'fail',
      regions: [r.id],
      range: r,
      of: why,
      text: `${called(r).slice(0, 80)} cannot be in the name of a file: ${why}`,
      fix: null,
    })
  return out
}
