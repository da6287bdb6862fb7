import { spelled } from '../../files/safe'
import { listed } from '../../text'
import { uncovered } from '../../time/range'
import type { Frames } from '../../time/rate'
import { lengthText } from '../../time/timecode'
import { moveEdge } from '../edit'
import { ordered, type Region, type Split } from '../region'
import { flashFrames, inDissolve, offCut, slivers } from './edges'
import { called, defaultAudit, type AuditOptions, type Finding } from './finding'
import { meetings } from './meetings'
import { ofOne, withoutMedia } from './own'

/**
 * Everything wrong with a split: overlaps, missing gaps, edges beside cuts and within dissolves, flashes of other
 * shots, missing media, frames nobody delivers and frames one recipient gets twice, double names, ranges past the end.
 * A region that holds all of another overlaps nothing: seasons, episodes and their parts are split so on purpose.
 */
export function audit(
  split: Split,
  cuts: readonly Frames[],
  length: Frames,
  options: AuditOptions = defaultAudit,
): Finding[] {
  const list = ordered(split.regions)
  return [
    ...meetings(list, length, options),
    ...list.flatMap((r) => [
      ...slivers(r, cuts, length, options),
      ...offCut(r, cuts, length, options),
      ...inDissolve(r, length, options),
      ...flashFrames(r, length, options),
      ...withoutMedia(r, options),
      ...ofOne(r, length, options),
    ]),
    ...sameNames(list),
    ...undelivered(list, length, options),
  ]
}

function sameNames(list: readonly Region[]): Finding[] {
  const out: Finding[] = []
  const byName = new Map<string, Region[]>()
  for (const r of list) {
    const name = spelled(r.name)
    const same = byName.get(name)
    if (same) same.push(r)
    else if (name) byName.set(name, [r])
  }
  for (const same of byName.values()) {
    const written = [...new Set(same.map((r) => called({ ...r, name: r.name.trim().toLowerCase() })))]
    if (same.length > 1)
      out.push({
        kind: 'same-name',
        severity: 'caution',
        regions: same.map((r) => r.id),
        range: same[1]!,
        text:
          written.length === 1
            ? `${same.length} regions are called ${called(same[0]!)}`
            : `Some systems spell ${listed(same.slice(0, 4).map(called))} the same`,
        fix: null,
      })
  }
  return out
}

/** Stretches of the timeline that no region takes, once there is one. */
function undelivered(list: readonly Region[], length: Frames, { rate }: AuditOptions): Finding[] {
  if (list.length === 0) return []
  const endingAt = new Map(list.map((r) => [r.out, r]))
  return uncovered({ in: 0, out: length }, list).map((gap) => {
    const before = endingAt.get(gap.in)
    return {
      kind: 'undelivered',
      severity: 'caution',
      regions: [],
      range: gap,
      text: `${lengthText(gap.out - gap.in, rate)} nobody delivers`,
      fix:
        before && gap.out - gap.in <= 100
          ? { label: `Give them to ${called(before)}`, apply: (s) => moveEdge(s, before.id, 'out', gap.out, length) }
          : null,
    }
  })
}
