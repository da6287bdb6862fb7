import { framesInFile, lineUpSections } from '../lineup/lineup'
import type { Section } from '../lineup/section'
import { colourText } from '../media/colour'
import type { Problem } from '../problem'
import type { FrameRange } from '../time/range'
import { dividedRate } from '../time/rate'
import type { Basis, OutputRequest } from './output'
import { inParts } from './parts'

/** What a file is made of, where that is not its region alone. */
export interface InSections {
  readonly sections: readonly Section[]
  /** The parts that it is delivered in, in frames from the first of its range; none when it is whole. */
  readonly delivered: readonly FrameRange[]
  readonly problems: readonly Problem[]
  readonly notes: readonly string[]
}

/**
 * The sections of a file: line-up in front where that is asked for, and its range or the parts of it. `perFrame`:
 * frames of the timeline in each of the file's.
 */
export function inSections(request: OutputRequest, perFrame = 1): InSections {
  const parts = inParts(request, perFrame)
  const { settings, timeline, range } = request
  const head = settings.lineUp ? lineUpSections(settings.lineUp, dividedRate(timeline.rate, perFrame)) : []
  const whole: Section = { kind: 'timeline', from: 0, frames: framesInFile({ perFrame }, range.out - range.in) }
  const own = head.length > 0 && parts.sections.length === 0 ? [whole] : parts.sections
  return { ...parts, sections: [...head, ...own] }
}

/** Primaries (ITU-T H.273) of systems that 100/0/75/0 bars are of. */
const barColours = [1, 5, 6]

/** Says when a file is of a colour that has other bars. */
export function sayLineUp({ picture, problems }: Basis, { settings }: OutputRequest): void {
  const colour = picture?.colour
  if (settings.lineUp && colour && !barColours.includes(colour.primaries))
    problems.push({
      code: 'recipe.line-up-colour',
      message: `Bars are made of BT.709 and BT.601; the file would say that its pictures are ${colourText(colour)}.`,
      fix: 'Bring the colour to one of these, or leave the line-up out.',
    })
}
