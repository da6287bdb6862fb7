import { fail } from '../problem'
import { bars } from './bars'
import { black } from './black'
import { clock } from './clock'
import type { SectionKind } from './section'

/** What can be made in front of a programme: a new one is a line here. */
export const sectionKinds: SectionKind[] = [bars, clock, black]

export function sectionKind(kind: string): SectionKind {
  return (
    sectionKinds.find((k) => k.kind === kind) ??
    fail(
      'lineup.unknown',
      `Line-up of kind “${kind}” is not known here.`,
      kind,
      'Run it with the edition that made it.',
    )
  )
}
