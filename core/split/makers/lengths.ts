import { lastAtOrBefore } from '../../time/order'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { cutsOf, type Timeline } from '../../timeline/model'
import { nearestCut } from '../edit'
import { withSettings, type MakeRequest, type NamedRange, type Needed, type SplitMaker } from './maker'
import { neededForShots, shotsFor, silenceOf } from './measured'
import { choice, secondsOf } from '../settings'

const meeting = {
  to: choice('Move each end to', [
    ['nothing', 'nothing'],
    ['cut', 'the nearest cut'],
    ['silence', 'the nearest silence'],
  ]),
  within: { kind: 'length', label: 'no further than', initial: secondsOf(2), least: 0 } as const,
}
interface Meeting {
  readonly to: 'nothing' | 'cut' | 'silence'
  readonly within: Frames
}

/** The place nearest to a frame that lies within ranges in order, no further than `reach`; null when there is none. */
function nearestWithin(ranges: readonly FrameRange[], at: Frames, reach: Frames): Frames | null {
  const i = lastAtOrBefore(
    ranges.map((r) => r.in),
    at,
  )
  const before = ranges[i]
  const after = ranges[i + 1]
  if (before && at < before.out) return at
  const places = [before && before.out - 1, after?.in].filter((n) => n !== undefined)
  const best = places.sort((a, b) => Math.abs(a - at) - Math.abs(b - at))[0]
  return best !== undefined && Math.abs(best - at) <= reach ? best : null
}

/** What is cut up: the marked range, else all of it. */
const wholeOf = ({ timeline, marked }: MakeRequest): FrameRange => marked ?? { in: 0, out: timeline.length }

/** What has to be looked through, for ends that are moved. */
const needs = (t: Timeline, { to }: Readonly<Record<string, number | string>>): readonly Needed[] => {
  if (to === 'cut') return neededForShots(t)
  return to === 'silence' ? ['sound'] : []
}

/** Pieces of a range that meet at `edges`, each moved as it is asked for. */
function piecesAt(request: MakeRequest, edges: readonly Frames[], { to, within }: Meeting): NamedRange[] {
  const whole = wholeOf(request)
  const cuts = to === 'cut' ? cutsOf(shotsFor(request)) : []
  const silent = to === 'silence' ? silenceOf(request) : []
  const moved = edges.map((at) => {
    if (to === 'nothing') return at
    return (to === 'cut' ? nearestCut(cuts, at, within) : nearestWithin(silent, at, within)) ?? at
  })
  const inner = [...new Set(moved)].filter((n) => n > whole.in && n < whole.out).sort((a, b) => a - b)
  const all = [whole.in, ...inner, whole.out]
  return all.slice(1).map((out, i) => ({ name: '', in: all[i]!, out }))
}

/** Pieces of one length; what is left makes the last. */
export const length: SplitMaker = withSettings({
  name: 'length',
  label: 'into pieces of one length',
  hint: 'Pieces of a length of the marked range, or of all of it; the last is what is left.',
  settings: { length: { kind: 'length', label: 'Each as long as', initial: secondsOf(600), least: 1 }, ...meeting },
  names: 'Part {number}',
  needs,
  make(request, { length: each, ...meets }) {
    const whole = wholeOf(request)
    const count = Math.ceil((whole.out - whole.in) / each)
    return piecesAt(
      request,
      Array.from({ length: Math.max(0, count - 1) }, (_, i) => whole.in + (i + 1) * each),
      meets,
    )
  },
})

/** As many pieces as are asked for, as equal as frames allow. */
export const count: SplitMaker = withSettings({
  name: 'count',
  label: 'into a number of pieces',
  hint: 'Pieces as equal as frames allow, of the marked range, or of all of it.',
  settings: { count: { kind: 'count', label: 'How many', initial: 2, least: 1 }, ...meeting },
  names: 'Part {number}',
  needs,
  make(request, { count: n, ...meets }) {
    const whole = wholeOf(request)
    const most = Math.min(n, whole.out - whole.in)
    const edge = (i: number) => whole.in + Math.floor(((whole.out - whole.in) * (i + 1)) / most)
    return piecesAt(
      request,
      Array.from({ length: Math.max(0, most - 1) }, (_, i) => edge(i)),
      meets,
    )
  },
})
