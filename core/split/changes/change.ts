import type { Shot, Timeline } from '../../timeline/model'
import type { Marker, Region } from '../region'
import { settled, type Settings, type Values } from '../settings'

/** What a change of regions can work from. */
export interface ChangeContext {
  readonly timeline: Timeline
  readonly shots: readonly Shot[]
  /** In order. */
  readonly markers: readonly Marker[]
  /** Every region of the split, in order. */
  readonly all: readonly Region[]
}

/** A change of several regions at once. */
export interface RegionChange {
  readonly name: string
  readonly label: string
  /** What it does, in a sentence. */
  readonly hint: string
  readonly settings: Settings
  /** The regions as they would be, as many as were given and in their order. */
  apply(
    regions: readonly Region[],
    values: Readonly<Record<string, number | string>>,
    context: ChangeContext,
  ): readonly Region[]
}

/** A change whose settings hold what they are at first where nothing is set. */
export function regionChange<S extends Settings>(
  change: Omit<RegionChange, 'settings' | 'apply'> & {
    readonly settings: S
    apply(regions: readonly Region[], values: Values<S>, context: ChangeContext): readonly Region[]
  },
): RegionChange {
  return {
    ...change,
    apply: (regions, values, context) =>
      change.apply(regions, settled(change.settings, values, context.timeline), context),
  }
}
