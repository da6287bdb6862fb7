import { lastAtOrBefore, lastWhere } from '../../time/order'
import type { Frames } from '../../time/rate'
import { lengthText } from '../../time/timecode'
import { moveEdge, nearestCut } from '../edit'
import type { Region } from '../region'
import { called, type AuditOptions, type Finding } from './finding'

/** Edges that lie a few frames beside a cut. */
export function slivers(r: Region, cuts: readonly Frames[], length: Frames, options: AuditOptions): Finding[] {
  const out: Finding[] = []
  for (const edge of ['in', 'out'] as const) {
    const cut = nearestCut(cuts, r[edge], options.sliver)
    if (cut === null || cut === r[edge]) continue
    const n = Math.abs(r[edge] - cut)
    const catches = edge === 'in' ? r.in < cut : r.out > cut
    const by = lengthText(n, options.rate)
    const text = catches
      ? `${called(r)} catches ${by} of the ${edge === 'in' ? 'shot before' : 'next shot'}`
      : `${called(r)} ${edge === 'in' ? 'begins' : 'ends'} ${by} ${edge === 'in' ? 'after' : 'before'} the cut`
    out.push({
      kind: 'sliver',
      severity: 'fail',
      regions: [r.id],
      range: { in: Math.min(cut, r[edge]), out: Math.max(cut, r[edge]) },
      text,
      fix: {
        label: `Move the ${edge === 'in' ? 'head' : 'tail'} to the cut`,
        apply: (s) => moveEdge(s, r.id, edge, cut, length),
      },
    })
  }
  return out
}

/** A first frame in the middle of a shot: further from its cut than a sliver is. */
export function offCut(r: Region, cuts: readonly Frames[], length: Frames, options: AuditOptions): Finding[] {
  const cut = cuts[lastAtOrBefore(cuts, r.in)]
  if (cut === undefined || r.in >= length || nearestCut(cuts, r.in, options.sliver) !== null) return []
  return [
    {
      kind: 'off-cut',
      severity: 'caution',
      regions: [r.id],
      range: { in: cut, out: r.in },
      text: `${called(r)} begins ${lengthText(r.in - cut, options.rate)} into a shot`,
      fix: { label: 'Begin it with the shot', apply: (s) => moveEdge(s, r.id, 'in', cut, length) },
    },
  ]
}

/** Edges in the middle of a dissolve or a wipe, where both pictures are seen. */
export function inDissolve(r: Region, length: Frames, { dissolves = [] }: AuditOptions): Finding[] {
  return (['in', 'out'] as const).flatMap((edge): Finding[] => {
    const at = r[edge]
    const i = lastWhere(dissolves.length, (k) => dissolves[k]!.in < at)
    const d = dissolves[i]
    if (!d || at >= d.out) return []
    const to = edge === 'in' ? d.out : d.in
    const label = edge === 'in' ? 'Begin it after that' : 'End it before that'
    return [
      {
        kind: 'in-dissolve',
        severity: 'caution',
        regions: [r.id],
        range: d,
        text: `${called(r)} ${edge === 'in' ? 'begins' : 'ends'} within a dissolve or wipe`,
        fix: { label, apply: (s) => moveEdge(s, r.id, edge, to, length) },
      },
    ]
  })
}

/** A few frames of another picture at an edge, found in the pictures where the list has no cut. */
export function flashFrames(r: Region, length: Frames, { found = [], sliver, rate }: AuditOptions): Finding[] {
  return (['in', 'out'] as const).flatMap((edge): Finding[] => {
    const [from, to] = edge === 'in' ? [r.in, r.in + sliver] : [r.out - sliver - 1, r.out - 1]
    const i = edge === 'in' ? lastAtOrBefore(found, to) : lastAtOrBefore(found, from) + 1
    const cut = found[i]
    if (cut === undefined || cut <= from || cut > to || cut <= r.in || cut >= r.out) return []
    const range = edge === 'in' ? { in: r.in, out: cut } : { in: cut, out: r.out }
    const by = lengthText(range.out - range.in, rate)
    return [
      {
        kind: 'flash-frame',
        severity: 'caution',
        regions: [r.id],
        range,
        text: `${called(r)} ${edge === 'in' ? 'begins' : 'ends'} with ${by} of another picture`,
        fix: {
          label: `Move the ${edge === 'in' ? 'head' : 'tail'} to where it changes`,
          apply: (s) => moveEdge(s, r.id, edge, cut, length),
        },
      },
    ]
  })
}
