import { writeEdl } from '../core/timeline/formats/edl/write'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import type { FrameRange } from '../core/time/range'
import { timecodeToFrames } from '../core/time/timecode'
import type { ReelPlan } from './reel'

interface Reel {
  readonly plan: ReelPlan
  readonly ranges: ReadonlyMap<string, FrameRange>
}

/** One shot of the trailer: which film, from how far in, how long; other reels by name. */
interface Shot {
  readonly film: string
  readonly from: number
  readonly frames: number
  readonly dissolve?: number
  readonly reel?: string
  readonly speed?: number
}

const first: Shot[] = [
  { film: 'Morning Chain', from: 60, frames: 50 },
  { film: 'The Gannet Run', from: 20, frames: 40, dissolve: 12 },
  { film: 'Two Cars and a Cow', from: 40, frames: 60 },
  { film: 'Ferrymen', from: 100, frames: 45, reel: 'CARD_07' },
  { film: 'Low Water', from: 30, frames: 50, dissolve: 20 },
  { film: 'Last Boat Home', from: 90, frames: 75 },
]
/** Tightened, re-ordered, with a bulletin at another rate and a slow pan. */
const second: Shot[] = [
  { film: 'Morning Chain', from: 60, frames: 50 },
  { film: 'Two Cars and a Cow', from: 45, frames: 40 },
  { film: 'The Gannet Run', from: 20, frames: 40, dissolve: 12 },
  { film: 'Ferrymen', from: 100, frames: 45, reel: 'CARD_07' },
  { film: 'Harbour bulletin', from: 150, frames: 35, reel: 'Bulletins_Week_48' },
  { film: 'Low Water', from: 30, frames: 50, speed: 0.5 },
  { film: 'Last Boat Home', from: 90, frames: 75, dissolve: 25 },
]

function lay(name: string, shots: readonly Shot[], reel: Reel): Timeline {
  const { rate, dropFrame, start } = reel.plan
  const events: TimelineEvent[] = []
  let at = 0
  for (const s of shots) {
    const num = s.speed === 0.5 ? 1 : 2
    const speed = s.speed ? { num, den: 2 } : normalSpeed
    const own = s.reel ? 0 : start + reel.ranges.get(s.film)!.in
    const base = s.reel === 'CARD_07' ? timecodeToFrames(7, 12, 0, 0, { rate, dropFrame })! : own
    const source = {
      in: base + s.from,
      out: base + s.from + Math.ceil((s.frames * speed.num) / speed.den),
      rate,
      dropFrame,
    }
    const shared = {
      name: s.film,
      reel: s.reel ?? 'Almanac_Reel_1',
      file: null,
      source,
      record: { in: at, out: at + s.frames },
      speed,
      transition: s.dissolve ? { kind: 'dissolve' as const, frames: s.dissolve } : null,
    }
    events.push({ ...shared, track: 'V', kind: 'video' })
    if (!s.reel && !s.speed)
      for (const c of [0, 1]) events.push({ ...shared, track: `A${c + 1}`, kind: 'audio', channels: [c] })
    at += s.frames
  }
  return {
    name,
    rate,
    dropFrame,
    start: timecodeToFrames(1, 0, 0, 0, { rate, dropFrame })!,
    length: at,
    events,
    markers: [{ name: 'Title in', kind: 'marker', at: 20, frames: 0 }],
    tracks: [
      { name: 'V', kind: 'video' },
      { name: 'A1', kind: 'audio' },
      { name: 'A2', kind: 'audio' },
    ],
  }
}

/** The season trailer in two versions, as edit decision lists over the reels of the demo. */
export function trailerLists(almanac: Reel): [string, string][] {
  return (
    [
      ['Season_Trailer_v1', first],
      ['Season_Trailer_v2', second],
    ] as const
  ).map(([name, shots]) => [name, writeEdl(lay(name, shots, almanac)).text])
}
