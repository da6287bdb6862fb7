import type { Fingerprint } from '../../core/media/fingerprint'
import type { FilePath } from '../../core/media/filepath'
import type { MediaInfo } from '../../core/media/media'
import type { Problem } from '../../core/problem'
import { applyPatch, diffSplit } from '../../core/split/patch'
import type { Split } from '../../core/split/region'
import type { Linking, SplitTimeline } from '../../core/split/timeline'
import type { Timeline } from '../../core/timeline/model'
import type { TimelineRow } from './database'

/** A timeline as it is stored; the one place that reads its columns. */
export function timelineOf(row: TimelineRow): SplitTimeline {
  const model = JSON.parse(row.model) as Timeline
  return {
    id: row.id,
    show: row.show,
    name: row.name,
    file: { root: row.root, path: row.path },
    cuts: row.cuts_path ? (JSON.parse(row.cuts_path) as FilePath) : null,
    cutsOffset: row.cuts_offset,
    linking: row.linking ? (JSON.parse(row.linking) as Linking) : null,
    fingerprint: JSON.parse(row.fingerprint) as Fingerprint,
    info: JSON.parse(row.info) as MediaInfo,
    problems: JSON.parse(row.problems) as Problem[],
    split: JSON.parse(row.split) as Split,
    splitVersion: row.split_version,
    // rows of the first edition know neither tracks nor markers
    model: { ...model, tracks: model.tracks ?? [{ name: 'V', kind: 'video' }], markers: model.markers ?? [] },
  }
}

/** A timeline with a newer split as it is stored; regions and markers that did not change stay the same objects. */
export function withSplit(t: SplitTimeline, text: string, splitVersion: number): SplitTimeline {
  const split = applyPatch(t.split, diffSplit(t.split, JSON.parse(text) as Split))
  return { ...t, split, splitVersion }
}

/** The columns of what can change of a timeline; what is absent stays as it is. */
export function timelineColumns(t: Partial<Omit<SplitTimeline, 'id'>>): Partial<TimelineRow> {
  return {
    ...(t.show !== undefined ? { show: t.show } : {}),
    ...(t.name !== undefined ? { name: t.name } : {}),
    ...(t.file ? { root: t.file.root, path: t.file.path } : {}),
    ...(t.cuts !== undefined ? { cuts_path: t.cuts && JSON.stringify(t.cuts) } : {}),
    ...(t.cutsOffset !== undefined ? { cuts_offset: t.cutsOffset } : {}),
    ...(t.linking !== undefined ? { linking: t.linking && JSON.stringify(t.linking) } : {}),
    ...(t.fingerprint ? { fingerprint: JSON.stringify(t.fingerprint) } : {}),
    ...(t.info ? { info: JSON.stringify(t.info) } : {}),
    ...(t.model ? { model: JSON.stringify(t.model) } : {}),
    ...(t.problems ? { problems: JSON.stringify(t.problems) } : {}),
    ...(t.split ? { split: JSON.stringify(t.split) } : {}),
    ...(t.splitVersion !== undefined ? { split_version: t.splitVersion } : {}),
  }
}
