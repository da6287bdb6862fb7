import type { Fingerprint } from '../../core/media/fingerprint'
import { applyPatch, diffSplit } from '../../core/split/patch'
import type { SplitTimeline } from '../../core/split/timeline'
import type { TimelineRow } from './database'
import { kept } from './stored'

/** The fingerprint of a timeline's media, as it is stored. */
export function fingerprintOf(row: Pick<TimelineRow, 'name' | 'fingerprint'>): Fingerprint {
  return kept.fingerprint.read(row.fingerprint, `timeline “${row.name}”`)
}

/** A timeline as it is stored; the one place that reads its columns. */
export function timelineOf(row: TimelineRow): SplitTimeline {
  const where = `timeline “${row.name}”`
  return {
    id: row.id,
    show: row.show,
    name: row.name,
    file: { root: row.root, path: row.path },
    cuts: row.cuts_path ? kept.fileName.read(row.cuts_path, where) : null,
    cutsOffset: row.cuts_offset,
    linking: row.linking ? kept.linking.read(row.linking, where) : null,
    fingerprint: fingerprintOf(row),
    info: kept.info.read(row.info, where),
    problems: kept.problems.read(row.problems, where),
    split: kept.split.read(row.split, where),
    splitVersion: row.split_version,
    model: kept.timeline.read(row.model, where),
  }
}

/** A timeline with a newer split as it is stored; regions and markers that did not change stay the same objects. */
export function withSplit(t: SplitTimeline, text: string, splitVersion: number): SplitTimeline {
  const split = applyPatch(t.split, diffSplit(t.split, kept.split.read(text, `timeline “${t.name}”`)))
  return { ...t, split, splitVersion }
}

/** The columns of what can change of a timeline; what is absent stays as it is. */
export function timelineColumns(t: Partial<Omit<SplitTimeline, 'id'>>): Partial<TimelineRow> {
  return {
    ...(t.show !== undefined ? { show: t.show } : {}),
    ...(t.name !== undefined ? { name: t.name } : {}),
    ...(t.file ? { root: t.file.root, path: t.file.path } : {}),
    ...(t.cuts !== undefined ? { cuts_path: t.cuts && kept.fileName.write(t.cuts) } : {}),
    ...(t.cutsOffset !== undefined ? { cuts_offset: t.cutsOffset } : {}),
    ...(t.linking !== undefined ? { linking: t.linking && kept.linking.write(t.linking) } : {}),
    ...(t.fingerprint ? { fingerprint: kept.fingerprint.write(t.fingerprint) } : {}),
    ...(t.info ? { info: kept.info.write(t.info) } : {}),
    ...(t.model ? { model: kept.timeline.write(t.model) } : {}),
    ...(t.problems ? { problems: kept.problems.write([...t.problems]) } : {}),
    ...(t.split ? { split: kept.split.write(t.split) } : {}),
    ...(t.splitVersion !== undefined ? { split_version: t.splitVersion } : {}),
  }
}
