import { common, uncovered, type FrameRange } from '../../time/range'
import { withSettings, type NamedRange, type SplitMaker } from './maker'
import { blackOf, silenceOf } from './measured'
import { secondsOf } from '../settings'

/** The parts of a range between pauses: those that are long enough, between pauses that are. */
export function partsBetween(
  whole: FrameRange,
  pauses: readonly FrameRange[],
  { least, shortest }: { readonly least: number; readonly shortest: number },
): NamedRange[] {
  const long = pauses.filter((p) => p.out - p.in >= least)
  return uncovered(whole, long)
    .filter((r) => r.out - r.in >= shortest)
    .map((r) => ({ ...r, name: '' }))
}

const pauseSettings = (label: string, seconds: number) => ({
  least: { kind: 'length', label, initial: secondsOf(seconds), least: 1 } as const,
  shortest: {
    kind: 'length',
    label: 'Leave out what is shorter than',
    initial: secondsOf(1),
    least: 1,
  } as const,
})

/** What lies between black stretches of the pictures. */
export const black: SplitMaker = withSettings({
  name: 'black',
  label: 'at black',
  hint: 'What lies between black pictures.',
  settings: pauseSettings('Black for at least', 0.4),
  names: 'Part {number}',
  needs: () => ['pictures'],
  make: (request, values) => partsBetween({ in: 0, out: request.timeline.length }, blackOf(request), values),
})

/** What lies between silent stretches of the sound. */
export const silence: SplitMaker = withSettings({
  name: 'silence',
  label: 'at silence',
  hint: 'What lies between stretches in which every channel is silent (half a second or more).',
  settings: pauseSettings('Silent for at least', 1),
  names: 'Part {number}',
  needs: () => ['sound'],
  make: (request, values) => partsBetween({ in: 0, out: request.timeline.length }, silenceOf(request), values),
})

/** What lies between stretches that are black and silent at once. */
export const pauses: SplitMaker = withSettings({
  name: 'pauses',
  label: 'at black with silence',
  hint: 'What lies between pauses: black pictures without sound.',
  settings: pauseSettings('Black and silent for at least', 0.4),
  names: 'Part {number}',
  needs: () => ['pictures', 'sound'],
  make: (request, values) =>
    partsBetween({ in: 0, out: request.timeline.length }, common(blackOf(request), silenceOf(request)), values),
})
