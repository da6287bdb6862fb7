import { framesInFile } from '../lineup/lineup'
import type { TimelineSection, Section } from '../lineup/section'
import type { Problem } from '../problem'
import { plural } from '../text'
import { dividedRate, nominalRate } from '../time/rate'
import { uncovered, type FrameRange } from '../time/range'
import { formatTimecode } from '../time/timecode'
import type { OutputRequest } from './output'

/** What a programme is made of when its recipe sets breaks between its parts; no sections when it is whole. */
interface InParts {
  readonly sections: readonly Section[]
  /** The parts themselves, in frames from the first of the range. */
  readonly delivered: readonly FrameRange[]
  readonly problems: readonly Problem[]
  readonly notes: readonly string[]
}

/**
 * The parts of a range, one after the other, with as much black between them as its recipe asks for. What is of no part
 * is left out; a range without two parts stays as it is. `perFrame`: frames of the timeline in each of the file's.
 */
export function inParts({ settings, parts = [], range, timeline }: OutputRequest, perFrame = 1): InParts {
  const whole: InParts = { sections: [], delivered: [], problems: [], notes: [] }
  const { breaks } = settings
  if (breaks === null) return whole
  const list = [...parts].sort((a, b) => a.in - b.in)
  if (list.length < 2)
    return { ...whole, notes: ['It has no two parts within it: it is delivered as it lies in the timeline.'] }
  const problems: Problem[] = []
  if (list.some((p, i) => p.in < (list[i - 1]?.out ?? 0)))
    problems.push({
      code: 'recipe.parts-overlap',
      message: 'Two of its parts have frames in common: they would be delivered twice.',
      fix: 'Move their edges apart, or leave the breaks as they lie in the timeline.',
    })
  if (settings.handles > 0)
    problems.push({
      code: 'recipe.parts-handles',
      message: 'A programme in parts has no handles: they would stand before the first part and after the last only.',
      fix: 'Leave the handles out, or leave the breaks as they lie in the timeline.',
    })
  const second = nominalRate(dividedRate(timeline.rate, perFrame))
  const pause: Section[] = breaks > 0 ? [{ kind: 'black', frames: breaks * second }] : []
  const sections = list.flatMap((p, i): Section[] => {
    const part: TimelineSection = { kind: 'timeline', from: p.in, frames: framesInFile({ perFrame }, p.out - p.in) }
    return i === 0 ? [part] : [...pause, part]
  })
  const left = uncovered({ in: 0, out: range.out - range.in }, list).reduce((n, g) => n + g.out - g.in, 0)
  const between = breaks > 0 ? `${breaks} s of black between them` : 'nothing between them'
  const rest = left > 0 ? `; ${formatTimecode(left, timeline)} of the region is of no part, and left out` : ''
  return { sections, delivered: list, problems, notes: [`${plural(list.length, 'part')} with ${between}${rest}.`] }
}
