import { uncovered, type FrameRange } from '../time/range'
import { makeRate, type Frames, type Rate } from '../time/rate'
import { lengthText } from '../time/timecode'
import { moveEdge, nearestCut } from './edit'
import { ordered, type Region, type Split } from './region'

/** Every kind of fault, in words: one of them, and many. */
export const findingWords = {
  overlap: ['overlap', 'overlaps'],
  'no-gap': ['missing gap', 'missing gaps'],
  sliver: ['sliver', 'slivers'],
  undelivered: ['stretch nobody delivers', 'stretches nobody delivers'],
  'same-name': ['same name', 'same names'],
  'past-end': ['past the end', 'past the end'],
  'no-name': ['without a name', 'without a name'],
} as const satisfies Record<string, readonly [one: string, many: string]>
export type FindingKind = keyof typeof findingWords

/** One fault of a split, in words, with the place and, where it is plain, what would mend it. */
export interface Finding {
  readonly kind: FindingKind
  readonly severity: 'fail' | 'caution'
  readonly text: string
  readonly regions: readonly string[]
  readonly range: FrameRange
  readonly fix: { readonly label: string; readonly apply: (split: Split) => Split } | null
}

export interface AuditOptions {
  /** Frames asked for between two regions; 0 when they may touch. */
  readonly gap: Frames
  /** An edge this near to a cut, but not on it, is a sliver. */
  readonly sliver: Frames
  /** Of the timeline: what its lengths are said in. */
  readonly rate: Rate
}

export const defaultAudit: AuditOptions = { gap: 0, sliver: 5, rate: makeRate(25) }

const called = (r: Region) => `“${r.name || 'without a name'}”`

/**
 * Everything wrong with a split: overlaps, missing gaps, slivers, frames nobody delivers, double names, ranges past the
 * end.
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
    ...list.flatMap((r) => [...slivers(r, cuts, length, options), ...ofOne(r, length, options)]),
    ...sameNames(list),
    ...undelivered(list, length, options),
  ]
}

/** Where regions share frames, or stand nearer than asked for. */
function meetings(list: readonly Region[], length: Frames, options: AuditOptions): Finding[] {
  const out: Finding[] = []
  let reach: Region | null = null
  for (const r of list) {
    const before = reach
    if (before && r.in < before.out) {
      const shared = { in: r.in, out: Math.min(r.out, before.out) }
      out.push({
        kind: 'overlap',
        severity: 'caution',
        regions: [before.id, r.id],
        range: shared,
        text: `${called(before)} and ${called(r)} share ${lengthText(shared.out - shared.in, options.rate)}`,
        fix:
          r.in > before.in
            ? {
                label: `End ${called(before)} where ${called(r)} begins`,
                apply: (s) => moveEdge(s, before.id, 'out', r.in, length),
              }
            : null,
      })
    } else if (before && options.gap > 0 && r.in - before.out < options.gap) {
      out.push({
        kind: 'no-gap',
        severity: 'caution',
        regions: [before.id, r.id],
        range: { in: before.out, out: r.in },
        fix: null,
        text:
          `${called(before)} and ${called(r)} are ${lengthText(r.in - before.out, options.rate)} apart; ` +
          `${lengthText(options.gap, options.rate)} are asked for`,
      })
    }
    if (!reach || r.out > reach.out) reach = r
  }
  return out
}

/** Edges that lie a few frames beside a cut. */
function slivers(r: Region, cuts: readonly Frames[], length: Frames, options: AuditOptions): Finding[] {
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

/** What is wrong with a region by itself: past the end, without a name. */
function ofOne(r: Region, length: Frames, { rate }: AuditOptions): Finding[] {
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
  return out
}

function sameNames(list: readonly Region[]): Finding[] {
  const out: Finding[] = []
  const byName = new Map<string, Region[]>()
  for (const r of list) {
    const name = r.name.trim().toLowerCase()
    const same = byName.get(name)
    if (same) same.push(r)
    else if (name) byName.set(name, [r])
  }
  for (const same of byName.values()) {
    if (same.length > 1)
      out.push({
        kind: 'same-name',
        severity: 'caution',
        regions: same.map((r) => r.id),
        range: same[1]!,
        text: `${same.length} regions are called ${called(same[0]!)}`,
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
