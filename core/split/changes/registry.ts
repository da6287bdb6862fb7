import { fail } from '../../problem'
import type { RegionChange } from './change'
import { kind } from './kind'
import { letters, replace, series } from './names'
import { paper } from './paper'
import { papers } from './papers'
import { gaps, move, trim } from './times'

/** Changes of several regions at once: a new one is its own file and its line here. */
export const regionChanges: readonly RegionChange[] = [series, replace, letters, kind, paper, papers, trim, move, gaps]

/** The change of a name. */
export function changeNamed(name: string): RegionChange {
  return (
    regionChanges.find((c) => c.name === name) ??
    fail('split.unknown', `There is no change called “${name}”.`, name, 'Choose another one.')
  )
}
