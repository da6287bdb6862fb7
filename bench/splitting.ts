import { samePictures } from '../core/analysis/samepictures'
import { follow } from '../core/split/follow'
import { followPictures } from '../core/split/followpictures'
import type { MakeRequest } from '../core/split/makers/maker'
import { splitMakers } from '../core/split/makers/registry'
import { printed, type Coding } from '../core/split/printedcuts'
import { recut, rightAndWrong } from '../core/split/recuts'
import { shotsOf } from '../core/timeline/model'

const median = (list: readonly number[]) => [...list].sort((a, b) => a - b)[list.length >> 1]!

/** Milliseconds of one call: the median of a few. */
function timed(what: () => unknown): number {
  what()
  return median(
    Array.from({ length: 9 }, () => {
      const began = performance.now()
      what()
      return performance.now() - began
    }),
  )
}

/** What each way to split takes until it shows what it would make of an hour, and how regions follow a new version. */
export function splitting(print: (name: string, figures: string) => void): void {
  const hour = recut(1, 1300)
  const timeline = hour.older
  const every = (frames: number, long: number) =>
    Array.from({ length: Math.floor(timeline.length / frames) }, (_, i) => ({
      in: 750 + i * frames,
      out: 750 + i * frames + long,
    })).filter((r) => r.out < timeline.length)
  const events = [...timeline.events]
  const [black, silence] = [every(4000, 50), every(4000, 60)]
  const lines = events.map((e) => `${e.record.in} ${e.record.out} ${e.name}`).join('\n')
  const request: MakeRequest = {
    timeline,
    shots: shotsOf(timeline),
    playhead: 1000,
    markers: events.slice(0, 300).map((e, i) => ({ id: `m${i}`, at: e.record.in, name: `Chapter ${i}` })),
    region: { name: 'Part', in: 0, out: 100 },
    pictures: { black: [{ in: 300, out: 350 }, ...black], freeze: [{ in: 0, out: 250 }], flashes: [] },
    sound: {
      momentary: Array.from({ length: Math.floor(timeline.length / 2.5) }, (_, i) => (i < 100 ? -18 : -23 + (i % 7))),
      faults: { silence: [{ in: 251, out: 360 }, ...silence], phase: [], clicks: [], dropouts: [], data: [] },
    },
    list: { text: lines, fileName: 'regions.txt' },
    older: { id: 'hour', timeline: hour.newer, split: { regions: [], markers: [] }, outlets: new Map() },
  }
  const values: Record<string, Record<string, string | number>> = {
    lines: { text: lines },
    length: { length: 500, to: 'cut' },
    count: { count: 100, to: 'silence' },
  }
  for (const m of splitMakers) {
    let made = 0
    // a request of its own each time: what was worked out for one is not asked again
    const ms = timed(() => (made = m.make({ ...request }, values[m.name] ?? {}).length))
    print(`an hour of ${events.length} shots: ${m.label}`, `${made} regions in ${ms.toFixed(1)} ms`)
  }
  const { older, newer, regions, truth } = recut(2, 10_000)
  const ms = timed(() => follow(older, newer, { regions, markers: [] }))
  const { share, wrong } = rightAndWrong(follow(older, newer, { regions, markers: [] }), truth)
  print(
    `${regions.length} regions follow a recut of ${older.events.length} shots`,
    `${ms.toFixed(0)} ms, right ${share.toFixed(4)}, wrong and not doubted ${wrong}`,
  )
  followingPictures(print)
}

/** The same without a list: versions coded, graded and numbered otherwise, found again by their pictures. */
function followingPictures(print: (name: string, figures: string) => void): void {
  const codings: readonly (Coding & { readonly name: string })[] = [
    { name: 'coded at a lower rate', seed: 3, grain: 4 },
    { name: 'graded anew', seed: 4, grain: 1, gain: 0.85, lift: 12 },
    { name: 'with a counter burnt in', seed: 5, grain: 1, counter: true },
  ]
  codings.forEach((coding, i) => {
    const { older, newer, regions, truth } = recut(30 + i, 400)
    const [was, now] = [printed(older, { seed: 1, grain: 1 }), printed(newer, coding)]
    const began = performance.now()
    const same = samePictures(was, now)
    const seconds = (performance.now() - began) / 1000
    const { share, wrong } = rightAndWrong(followPictures(older, newer, { regions, markers: [] }, same), truth)
    print(
      `${regions.length} regions follow ${(older.length / 1500).toFixed(0)} minutes of takes alike, ${coding.name}`,
      `${seconds.toFixed(1)} s, right ${share.toFixed(3)}, wrong and not doubted ${wrong}`,
    )
  })
}
