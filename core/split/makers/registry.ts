import { fail } from '../../problem'
import { chapters } from './chapters'
import { events } from './events'
import { file } from './file'
import { count, length } from './lengths'
import { lines } from './lines'
import type { MakeRequest, NamedRange, SplitMaker } from './maker'
import { marked } from './marked'
import { parts } from './parts'
import { black, pauses, silence } from './pauses'
import { programme } from './programme'
import { repeat } from './repeat'
import { shots } from './shots'
import { version } from './version'
import { whole } from './whole'

/** Ways to make regions: a new one is its own file and its line here. */
export const splitMakers: SplitMaker[] = [
  marked,
  shots,
  programme,
  black,
  silence,
  pauses,
  chapters,
  length,
  count,
  lines,
  file,
  events,
  parts,
  version,
  repeat,
  whole,
]

/** The way to split of a name. */
export function splitMaker(name: string): SplitMaker {
  return (
    splitMakers.find((m) => m.name === name) ??
    fail('split.unknown', `There is no way to split called “${name}”.`, name, 'Choose another one.')
  )
}

/** The regions that a way to split would make. */
export function rangesBy(
  name: string,
  request: MakeRequest,
  values: Readonly<Record<string, number | string>> = {},
): readonly NamedRange[] {
  return splitMaker(name).make(request, values)
}
