import { listed } from '../../text'
import { uncovered, type FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { lengthText } from '../../time/timecode'
import { moveEdge } from '../edit'
import { ordered, type Region, type Split } from '../region'
import { flashFrames, inDissolve, offCut, slivers } from './edges'
import { called, defaultAudit, type AuditOptions, type Finding } from './finding'
import { meetings } from './meetings'
import { nameFacts } from './names'
import { ofOne, refusedLength, withoutMedia } from './own'
import { soundCuts } from './sound'

/**
 * Everything wrong with a split: overlaps, missing gaps, edges beside cuts and within dissolves, flashes of other
 * shots, sound that is cut off, lengths outlets do not take, missing media, frames nobody delivers and frames one
 * recipient gets twice, double names, ranges past the end.
 * A region that holds all of another overlaps nothing: seasons, episodes and their parts are split so on purpose.
 */
export function audit(
  split: Split,
  cuts: readonly Frames[],
  length: Frames,
  options: AuditOptions = defaultAudit,
): Finding[] {
  const list = ordered(split.regions)
  const open = uncovered({ in: 0, out: length }, list)
  return [
    ...meetings(list, length, options),
    ...list.flatMap((r) => [
      ...slivers(r, cuts, length, options),
      ...offCut(r, cuts, length, options),
      ...inDissolve(r, length, options),
      ...flashFrames(r, length, options),
      ...withoutMedia(r, options),
      ...soundCuts(r, open, length, options),
      ...refusedLength(r, options),
      ...ofOne(r, length, options),
    ]),
    ...sameNames(list),
    ...undelivered(list, open, length, options),
  ]
}

function sameNames(list: readonly Region[]): Finding[] {
  const out: Finding[] = []
  const byName = new Map<string, Region[]>()
  for (const r of list) {
    const name = nameFacts(r).spelled
    const same = byName.get(name)
    if (same) same.push(r)
    else if (name) byName.set(name, [r])
  }
  for (const same of byName.values()) {
    if (same.length < 2) continue
    const written = new Set(same.map((r) => r.name.trim().toLowerCase()))
    out.push({
      kind: 'same-name',
      severity: 'caution',
      regions: same.map((r) => r.id),
      range: same[1]!,
      text:
        written.size === 1
          ? `${same.length} regions are called ${called(same[0]!)}`
          : `Some systems spell ${listed(same.slice(0, 4).map(called))} the same`,
      fix: null,
    })
  }
  return out
}

/** Stretches of the timeline that no region takes, once there is one. */
function undelivered(
  list: readonly Region[],
  open: readonly FrameRange[],
  length: Frames,
  { rate }: AuditOptions,
): Finding[] {
  if (list.length === 0) return []
  const endingAt = new Map(list.map((r) => [r.out, r]))
  return open.map((gap) => {
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
