import { fail } from '../../problem'
import { events } from './events'
import { list } from './list'
import type { MakeRequest, NamedRange, SplitMaker } from './maker'
import { marked } from './marked'
import { parts } from './parts'
import { shots } from './shots'
import { whole } from './whole'

/** Ways to make regions: a new one is its own file and its line here. */
export const splitMakers: SplitMaker[] = [marked, shots, events, parts, list, whole]

/** The regions that a way to split would make. */
export function rangesBy(name: string, request: MakeRequest): readonly NamedRange[] {
  const maker =
    splitMakers.find((m) => m.name === name) ??
    fail('split.unknown', `There is no way to split called “${name}”.`, name, 'Choose another one.')
  return maker.make(request)
}
