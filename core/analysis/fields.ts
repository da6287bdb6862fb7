import type { Scan } from '../media/media'
import { hasFields } from '../media/scan'
import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import type { Meter } from './meter'
import type { Trace } from './trace'

// Of what moments the lines of pictures are, by what moves: whatever their file says of it.

/** The field that was taken first. */
export type FirstField = 'top' | 'bottom'

/** What is seen of fields. */
export interface FieldFacts {
  /** Stretches of pictures whose two fields are of two moments. */
  readonly two: readonly (FrameRange & { readonly first: FirstField })[]
  /** Whether there are pictures that are of one: several that follow each other, since a cut makes any look so. */
  readonly one: boolean
}

/** The share of samples that has to differ, in millionths, and of as many as stand out anyway. */
const leastMoved = 2000
const leastOver = 0.25
/** The share of what differs that decides. */
const most = 0.6
/**
 * Pictures of two moments that are a stretch: so many, with less than a second between each and the next. Fewer may be
 * fine lines that fade, and as many of either order fine lines that roll.
 */
const fewest = 8

/**
 * What a picture is by how much it is combed: alone, and with the fields of the one before between its own. What is of
 * one moment is combed least alone, and alike both ways; of two, least where fields meet that follow each other. Still
 * lines, and noise, stand out in all three alike.
 */
export function momentsOf({ combed }: Pick<Trace, 'combed'>): 'one' | FirstField | null {
  if (!combed) return null
  const { own, topAfter, bottomAfter } = combed
  const least = Math.min(own, topAfter, bottomAfter)
  const spread = Math.max(own, topAfter, bottomAfter) - least
  if (spread < leastMoved || spread < leastOver * least) return null
  if (Math.min(topAfter, bottomAfter) - own > most * spread) return 'one'
  const order = (bottomAfter - topAfter) / spread
  return order > most ? 'top' : order < -most ? 'bottom' : null
}

/** Pictures of one order; `others`: of the other one among them, and of those since. */
interface Run {
  readonly in: Frames
  readonly first: FirstField
  out: Frames
  count: number
  others: number
  since: number
}

/** Finds pictures of two moments; `second`: frames in one. */
export function fieldMeter(second: Frames): Meter<Trace, FieldFacts> {
  const runs: Run[] = []
  const last: Partial<Record<FirstField, Run>> = {}
  let frame = 0
  let ones = 0
  let before: ReturnType<typeof momentsOf> = null
  const add = (first: FirstField) => {
    let run = last[first]
    if (!run || frame - run.out >= second) {
      run = last[first] = { in: frame, out: frame, first, count: 0, others: 0, since: 0 }
      runs.push(run)
    }
    run.others += run.since
    run.since = 0
    run.count++
    run.out = frame + 1
    const other = last[first === 'top' ? 'bottom' : 'top']
    if (other) other.since++
  }
  return {
    feed(t) {
      const found = momentsOf(t)
      if (found === 'one') ones += before === 'one' ? 1 : 0
      else if (found) add(found)
      before = found
      frame++
    },
    result: () => ({
      two: runs
        .filter((r) => r.count >= fewest && r.others * 3 < r.count)
        .map((r) => ({ in: r.in, out: r.out, first: r.first })),
      one: ones >= fewest,
    }),
  }
}

/** Stretches that are not what a file says its pictures are. */
export function unlikeLabel({ two }: FieldFacts, scan: Scan): FieldFacts['two'] {
  if (!hasFields(scan)) return two
  const other = scan === 'interlaced-tff' ? 'bottom' : scan === 'interlaced-bff' ? 'top' : undefined
  return two.filter((r) => r.first === other)
}

/** What stretches of two moments are, in words. */
export function momentsText(list: FieldFacts['two']): string {
  const order = [...new Set(list.map((r) => r.first))].map((f) => `the ${f} field first`).join(' and ')
  return `of two moments, ${order}`
}
