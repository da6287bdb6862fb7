import { pieces, type FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { segmentFrames } from '../recipe/output'
import type { SheetItem } from '../deliverable/sheet'
import { plural } from '../text'

export type TaskKind = 'rewrap' | 'segment' | 'encode-sound' | 'write-sound' | 'join' | 'prove'

/** One step of a deliverable. `needs` names the steps that must be done before. */
export interface PlannedTask {
  readonly key: string
  readonly kind: TaskKind
  readonly needs: readonly string[]
  /** Frames of the timeline this step works through; progress counts in them. */
  readonly range: FrameRange
}

/** The steps that make and prove one deliverable; segments may be worked on at the same time. */
export function planTasks(item: Pick<SheetItem, 'recipe' | 'region' | 'timeline'>): PlannedTask[] {
  const range = { in: item.region.in, out: item.region.out }
  const segments = (): PlannedTask[] =>
    pieces(range, segmentFrames(item.recipe.kind, item.timeline.rate)).map((r, i) => ({
      key: `segment-${i}`,
      kind: 'segment',
      needs: [],
      range: r,
    }))
  const prove = (needs: readonly string[]): PlannedTask => ({ key: 'prove', kind: 'prove', needs, range })
  switch (item.recipe.kind) {
    case 'rewrap':
      return [{ key: 'rewrap', kind: 'rewrap', needs: [], range }, prove(['rewrap'])]
    case 'sound':
      return [{ key: 'sound', kind: 'write-sound', needs: [], range }, prove(['sound'])]
    case 'master': {
      // segments of uncompressed pictures have their place in the file from the start: there is nothing to join
      const parts = segments()
      return [...parts, prove(parts.map((p) => p.key))]
    }
    case 'viewing': {
      const parts = segments()
      const sound: PlannedTask[] =
        item.recipe.channels === 'none' ? [] : [{ key: 'sound', kind: 'encode-sound', needs: [], range }]
      return [
        ...parts,
        ...sound,
        { key: 'join', kind: 'join', needs: [...parts, ...sound].map((p) => p.key), range },
        prove(['join']),
      ]
    }
  }
}

/** A step in words, for a dry run and for the list of what is being done. */
export function taskText(t: Pick<PlannedTask, 'kind' | 'range'>): string {
  const n = t.range.out - t.range.in
  switch (t.kind) {
    case 'rewrap':
      return `copy the essence of ${plural(n, 'frame')}`
    case 'segment':
      return `make ${plural(n, 'frame')} of pictures`
    case 'encode-sound':
      return 'encode the sound'
    case 'write-sound':
      return 'write the sound'
    case 'join':
      return 'join pictures and sound'
    case 'prove':
      return 'read the file back, measure and judge it, make checksums'
  }
}

/** Frames a second a worker makes of each kind of step, at 1920×1080, until this machine has shown its own. */
const speeds: Record<TaskKind, number> = {
  rewrap: 2000,
  segment: 30,
  'encode-sound': 2500,
  'write-sound': 2500,
  join: 4000,
  prove: 60,
}

/** Seconds a deliverable will take on one worker; `measured` are frames a second this machine has shown. */
export function forecastSeconds(
  item: Pick<SheetItem, 'recipe' | 'region' | 'timeline'>,
  pixels: number,
  measured: Partial<Record<TaskKind, number>> = {},
): number {
  const scale = Math.max(0.05, pixels / (1920 * 1080))
  const frames: Frames = item.region.out - item.region.in
  const kinds = new Set(planTasks(item).map((t) => t.kind))
  let seconds = 0
  for (const k of kinds)
    seconds += (frames * (k === 'segment' || k === 'prove' || k === 'rewrap' ? scale : 1)) / (measured[k] ?? speeds[k])
  return seconds
}
