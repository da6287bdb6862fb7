import type { FrameRange } from '../time/range'
import { makeRate } from '../time/rate'
import { normalSpeed, type Timeline, type TimelineEvent } from '../timeline/model'
import type { Followed } from './follow'

// Cuts made by chance, with what is true of them: tests and figures judge how regions follow by these.

const rate = makeRate(25)

/** A shot of a reel: its first frame of source, and how many. */
export interface Shot {
  readonly reel: string
  readonly first: number
  readonly frames: number
}
export const shot = (reel: string, frames = 100, first = 1000): Shot => ({ reel, first, frames })

/** A timeline of shots one after the other. */
export function cut(shots: readonly Shot[]): Timeline {
  let at = 0
  const events = shots.map(({ reel, first, frames }): TimelineEvent => {
    const record = { in: at, out: (at += frames) }
    const source = { in: first, out: first + frames, rate }
    return {
      ...{ track: 'V', kind: 'video', name: reel, reel, file: null, transition: null },
      source,
      record,
      speed: normalSpeed,
    }
  })
  return {
    ...{ name: 'Reel', rate, dropFrame: false, start: 0, length: at, events, markers: [] },
    tracks: [{ name: 'V', kind: 'video' }],
  }
}

/**
 * A cut of many shots, a region for each ten, and a recut of it by chance: shots trimmed, gone, new, used before, whole
 * regions in other places. Where each region is now is known by its shots; null where none is left.
 */
export function recut(seed: number, count: number) {
  let state = seed
  const random = (n: number) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * n)
  }
  const before: (Shot & { readonly id: number })[] = []
  for (let i = 0; i < count; i++) {
    // one in twenty is a shot that was used before
    const used = i > 0 && random(20) === 0 ? before[random(i)]! : null
    const own = shot(`R${random(count / 20)}`, 20 + random(100), i * 1000 + random(500))
    before.push({ ...(used ?? own), id: i })
  }
  const size = 10
  const groups = Array.from({ length: count / size }, (_, g) => before.slice(g * size, (g + 1) * size))
  const changed = groups.map((shots) => {
    const out: { shot: Shot; id: number | null }[] = []
    shots.forEach((s, k) => {
      const inner = k > 0 && k < size - 1
      const dice = random(100)
      if (dice < 3) return
      if (dice < 6) out.push({ shot: { ...s, frames: s.frames - 5 }, id: s.id })
      else if (dice < 9) out.push({ shot: { ...s, first: s.first + 7, frames: s.frames - 7 }, id: s.id })
      else out.push({ shot: s, id: s.id })
      if (inner && random(100) < 4) out.push({ shot: shot(`N${random(50)}`, 30, 5_000_000 + random(1e6)), id: null })
    })
    return out
  })
  // some whole regions change places
  for (let k = 0; k < groups.length / 10; k++) {
    const [x, y] = [random(groups.length), random(groups.length)]
    ;[changed[x], changed[y]] = [changed[y]!, changed[x]!]
  }
  const after = changed.flat()
  const newer = cut(after.map((x) => x.shot))
  const place = new Map(after.flatMap((x, i) => (x.id === null ? [] : [[x.id, newer.events[i]!.record] as const])))
  const older = cut(before)
  const regions = groups.map((shots, g) => {
    const events = shots.map((s) => older.events[s.id]!.record)
    return { id: `g${g}`, name: `Part ${g + 1}`, in: events[0]!.in, out: events.at(-1)!.out, metadata: {} }
  })
  const truth = groups.map((shots) => {
    const left = shots.flatMap((s) => place.get(s.id) ?? [])
    return left.length ? { in: left[0]!.in, out: left.at(-1)!.out } : null
  })
  return { older, newer, regions, truth }
}

/** How many of the regions that followed are where they are in truth, and how many are not and were not doubted. */
export function rightAndWrong(list: readonly Followed[], truth: readonly (FrameRange | null)[]) {
  const right = list.filter((f, i) => f.range?.in === truth[i]?.in && f.range?.out === truth[i]?.out)
  const wrong = list.filter((f) => f.doubts.length === 0 && !right.includes(f)).length
  return { share: right.length / list.length, wrong }
}
