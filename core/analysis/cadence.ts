import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import type { Meter } from './meter'
import { largestChange, type Trace } from './trace'

// Pictures that are shown twice in a beat: what is left of another frame rate once its pictures were repeated.

/** Pictures that are shown `shown` times each, and once more in a beat of so many frames; as many: none of them is. */
export interface Beat extends FrameRange {
  readonly every: Frames
  readonly shown: number
}

/** The largest change of a cell, in 8-bit steps: of pictures that stand still less, of those that move no less. */
const [still, moving] = [0.9, 4]
/** What is left of the change at a repeat, against those before and after it: a codec may go on refining a picture. */
const left = 0.15
/** How many times a picture is shown at most in a beat. */
const most = 4
/** Repeats that are a beat: five, or four that lie further apart. */
const far = 8
const fewest = (every: Frames) => (every < far ? 5 : 4)
/** Rates that are no multiples of each other make beats that are a frame longer here and there. */
const slack = (every: Frames) => (every < far ? 0 : 1)

/** Finds beats; frames count from the first one fed. */
export function cadenceMeter(): Meter<Trace, readonly Beat[]> {
  const changes: number[] = []
  let before: Trace | null = null
  return {
    feed(t) {
      changes.push(before && !before.damaged && !t.damaged ? largestChange(before, t) : Number.NaN)
      before = t
    },
    result: () => stretchesOf(changes).flatMap((pictures) => [...heldIn(pictures), ...repeatedIn(pictures)]),
  }
}

/** A picture that moves on from the one before, where it begins, and how many times it is shown. */
interface Shown {
  readonly at: Frames
  count: number
}

/** Pictures that move on one after the other, each shown a few times: what stands still for longer ends a stretch. */
function stretchesOf(changes: readonly number[]): Shown[][] {
  const out: Shown[][] = []
  let list: Shown[] = []
  const close = () => {
    if (list.length > 0) out.push(list)
    list = []
  }
  for (let n = 1; n < changes.length; n++) {
    const picture = list.at(-1)
    if (changes[n]! >= moving) list.push({ at: n, count: 1 })
    else if (picture && picture.count < most && isRepeat(changes, n, picture)) picture.count++
    else close()
  }
  // how long the last one stays is not known
  list.pop()
  close()
  return out
}

/** Whether a picture is that before once more, which began some frames ago: by what is before it and after. */
function isRepeat(changes: readonly number[], n: Frames, { at }: Shown): boolean {
  let next = n + 1
  while (next < changes.length && next - n < most && changes[next]! < still) next++
  // at the very end nothing comes after
  const after = next < changes.length ? changes[next]! : changes[at]!
  return after >= moving && changes[n]! < Math.min(still, left * Math.min(changes[at]!, after))
}

/** Runs of what is alike from one to the next; `joins` says whether one belongs to those before it. */
function runsOf<T>(list: readonly T[], joins: (run: readonly T[], next: T) => boolean): T[][] {
  const out: T[][] = []
  for (const x of list) {
    const run = out.at(-1)
    if (run && joins(run, x)) run.push(x)
    else out.push([x])
  }
  return out
}

/** Where each picture is shown more than once, all as many times. */
function heldIn(pictures: readonly Shown[]): Beat[] {
  return runsOf(pictures, ([first], x) => first!.count === x.count)
    .filter(([first, ...more]) => first!.count > 1 && more.length + 1 >= fewest(1))
    .map((run) => {
      const [{ at, count }, last] = [run[0]!, run.at(-1)!]
      return { in: at, out: last.at + count, every: count, shown: count }
    })
}

/** Where some pictures are shown once more than all others, in a beat. */
function repeatedIn(pictures: readonly Shown[]): Beat[] {
  const out: Beat[] = []
  for (let shown = 1; shown < most; shown++)
    for (const run of runsOf(pictures, (_, x) => x.count === shown || x.count === shown + 1)) {
      const longer = run.filter((x) => x.count === shown + 1)
      const gap = (x: Shown, y: Shown) => y.at - x.at
      const beats = runsOf(longer, ([first, second, ...more], x) => {
        if (!second) return gap(first!, x) > shown + 1
        const every = gap(first!, second)
        return Math.abs(gap(more.at(-1) ?? second, x) - every) <= slack(every)
      })
      for (const beat of beats) {
        const [first, last] = [beat[0]!, beat.at(-1)!]
        const every = Math.round(gap(first, last) / Math.max(1, beat.length - 1))
        if (beat.length >= fewest(every)) out.push({ in: first.at, out: last.at + last.count, every, shown })
      }
    }
  return out
}

/** Those that are left of a rate that was a little lower: of pictures shown more than once each none is, or all are. */
export const repeatsOf = (beats: readonly Beat[]): Beat[] => beats.filter((b) => b.shown === 1)

const times = (n: number) => ['once', 'twice', 'three times'][n - 1] ?? `${n} times`

function beatText({ every, shown }: Beat): string {
  if (every === shown) return `each picture ${times(shown)}`
  if (shown === 1) return `one picture in ${every} is the one before again`
  return `pictures ${times(shown)}, and ${times(shown + 1)} in a beat of ${every}`
}

/** Beats in words. */
export const beatsText = (beats: readonly Beat[]): string => [...new Set(beats.map(beatText))].join(', ')
