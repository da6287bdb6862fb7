import type { FrameRange } from '../time/range'
import { countsSamples, type Frames, type Rate } from '../time/rate'
import type { TimeBase } from '../time/timecode'

/** Frames of a source, as its own timecode counts them: [in, out). */
export interface SourceRange extends FrameRange {
  readonly rate: Rate
  /** Its labels are dropped; only said where a format tells. */
  readonly dropFrame?: boolean
}

/** Source frames played for each timeline frame, exact: 1/1 is normal, 0/1 a still, negative runs backwards. */
export interface Speed {
  readonly num: number
  readonly den: number
}

export const normalSpeed: Speed = { num: 1, den: 1 }

/** What a stretch of source is: its names, where it comes from, how fast it runs. `source` null is black or silence. */
export interface Clip {
  readonly name: string
  readonly reel: string
  /** File name or address of the media, as the list gives it. */
  readonly file: string | null
  readonly source: SourceRange | null
  readonly speed: Speed
  /** The frames its media has in all, where the list says so. */
  readonly available?: SourceRange
}

/**
 * How an event begins: over `frames` frames from `record.in` it takes over from what was there. `outgoing` is what it
 * takes over from, where the list names it; without it the event before goes on. `before` tells how many of the frames
 * lie before the cut, for formats that place transitions around one.
 */
export interface Transition {
  readonly kind: 'dissolve' | 'wipe'
  readonly frames: Frames
  readonly before?: Frames
  readonly wipe?: number
  readonly outgoing?: Clip
}

/** One edit. `record` counts frames from the start of the timeline. */
export interface TimelineEvent extends Clip {
  readonly track: string
  readonly kind: 'video' | 'audio'
  readonly record: FrameRange
  readonly transition: Transition | null
  /** Source channels (0-based) this sound event takes; absent: see {@link soundRoute}. */
  readonly channels?: readonly number[]
  /** Level change in dB. */
  readonly gain?: number
}

/** A named place or stretch. A `part` is a timeline inside the timeline. */
export interface TimelineMarker {
  readonly name: string
  readonly kind: 'marker' | 'chapter' | 'part'
  readonly at: Frames
  readonly frames: Frames
}

export interface Track {
  readonly name: string
  readonly kind: 'video' | 'audio'
}

/**
 * How several sound tracks are read whose events name no channels: each carries one channel of its source, side by
 * side; each carries all of them, side by side, as stems do; or each carries all of them, from the first on, and what
 * lies on one another is mixed.
 */
export const soundTrackReadings = ['each', 'beside', 'mixed'] as const
export type SoundTracks = (typeof soundTrackReadings)[number]

/** An edited timeline: all positions are frames from its start; `start` is the label of its first frame. */
export interface Timeline {
  readonly name: string
  readonly rate: Rate
  readonly dropFrame: boolean
  readonly start: Frames
  readonly length: Frames
  /** Bottom to top; the topmost picture is seen. */
  readonly tracks: readonly Track[]
  /** How its sound tracks are read where their events name no channels; `each` when absent. */
  readonly soundTracks?: SoundTracks
  /** How many channels each of its sound tracks carries, where all of them lie side by side; told by its media. */
  readonly trackWidths?: readonly number[]
  readonly events: readonly TimelineEvent[]
  readonly markers: readonly TimelineMarker[]
}

export function timeBase(t: Pick<Timeline, 'rate' | 'dropFrame'>): TimeBase {
  return { rate: t.rate, dropFrame: t.dropFrame }
}

export function isNormal(s: Speed): boolean {
  return s.num === s.den
}

/** A speed in lowest terms, from a number a format gives; exact to a millionth. */
export function speedOf(value: number): Speed {
  if (!Number.isFinite(value) || Math.abs(value) > 100_000) return normalSpeed
  const den =
    [1, 2, 3, 4, 5, 6, 8, 10, 24, 25, 30, 50, 60, 100, 1000, 1001].find(
      (d) => Math.abs(value * d - Math.round(value * d)) < 1e-9 * d,
    ) ?? 1_000_000
  const num = Math.round(value * den)
  let [a, b] = [Math.abs(num), den]
  while (b) [a, b] = [b, a % b]
  return { num: num / (a || 1) + 0, den: den / (a || 1) }
}

/**
 * The source frame an event shows `k` frames after its record in (negative before it, in handles): the nearest at or
 * before the exact place, so that half speed shows each frame twice. Running backwards begins with the last frame.
 */
export function sourceFrame(source: FrameRange, speed: Speed, k: Frames): Frames {
  const steps = Math.floor((k * Math.abs(speed.num)) / speed.den)
  return speed.num < 0 ? source.out - 1 - steps : source.in + steps
}

/** How many frames of source a record length takes at a speed. */
export function sourceLength(frames: Frames, speed: Speed): Frames {
  return frames <= 0 ? 0 : Math.floor(((frames - 1) * Math.abs(speed.num)) / speed.den) + 1
}

/** The part of an event that lies within a record range, its source trimmed alike; null when nothing is left. */
export function trimEvent(e: TimelineEvent, range: FrameRange): TimelineEvent | null {
  const record = { in: Math.max(e.record.in, range.in), out: Math.min(e.record.out, range.out) }
  if (record.out <= record.in) return null
  if (record.in === e.record.in && record.out === e.record.out) return e
  const skipped = record.in - e.record.in
  const transition =
    e.transition && skipped === 0
      ? { ...e.transition, frames: Math.min(e.transition.frames, record.out - record.in) }
      : null
  if (!e.source) return { ...e, record, transition }
  const first = sourceFrame(e.source, e.speed, skipped)
  const length = sourceLength(record.out - record.in, e.speed)
  const source =
    e.speed.num < 0
      ? { ...e.source, in: first + 1 - length, out: first + 1 }
      : { ...e.source, in: first, out: first + length }
  return { ...e, record, source, transition }
}

/** A shot: what lies between two cuts of the pictures. */
export interface Shot extends FrameRange {
  readonly name: string
  readonly reel: string
}

/** Whether there is nothing but sound in a timeline. */
export const isSoundAlone = ({ events }: Pick<Timeline, 'events'>): boolean =>
  events.length > 0 && events.every((e) => e.kind === 'audio')

type Cut = Pick<Timeline, 'tracks' | 'events' | 'length' | 'rate'>

/** The tracks that say where a timeline is cut: of pictures from below; of sound alone the first that is used. */
function leadingTracks({ tracks, events, rate }: Cut): string[] {
  if (!isSoundAlone({ events })) return tracks.filter((x) => x.kind === 'video').map((x) => x.name)
  // a file that is counted in samples is cut nowhere
  const used = countsSamples(rate) ? undefined : tracks.find((x) => events.some((e) => e.track === x.name))
  return used ? [used.name] : []
}

/**
 * The topmost picture events over a timeline, in order and without overlap: of two on one track the one that begins
 * later is seen, then what is left of the other. Black on an upper layer hides nothing; a
 * stretch nothing covers is no event. Of a list of sound alone they are those of its first track.
 */
export function topEvents(t: Cut): TimelineEvent[] {
  const alone = isSoundAlone(t)
  const level = new Map(leadingTracks(t).map((name, i) => [name, i]))
  const events = t.events.filter(
    (e) => (alone ? level.has(e.track) : e.kind === 'video') && e.record.out > 0 && e.record.in < t.length,
  )
  const apart = (list: readonly TimelineEvent[]) =>
    list.every((e, i) => i === 0 || list[i - 1]!.record.out <= e.record.in)
  const byStart = [...events].sort((a, b) => a.record.in - b.record.in)
  if (level.size <= 1 && apart(byStart)) return byStart
  // a sweep over all edges: the highest layer that is there is seen
  const edges = [...new Set(events.flatMap((e) => [e.record.in, e.record.out]))].sort((a, b) => a - b)
  const live = new Set<TimelineEvent>()
  const out: { event: TimelineEvent; in: Frames; out: Frames }[] = []
  let next = 0
  for (let i = 0; i + 1 < edges.length; i++) {
    const [from, to] = [edges[i]!, edges[i + 1]!]
    while (next < byStart.length && byStart[next]!.record.in <= from) live.add(byStart[next++]!)
    let top: TimelineEvent | null = null
    for (const e of live) {
      if (e.record.out <= from) live.delete(e)
      else if (!e.source && (level.get(e.track) ?? 0) > 0) continue
      else if (!top || (level.get(e.track) ?? 0) >= (level.get(top.track) ?? 0)) top = e
    }
    if (!top) continue
    const last = out.at(-1)
    if (last?.event === top && last.out === from) last.out = to
    else out.push({ event: top, in: from, out: to })
  }
  return out.map((s) => trimEvent(s.event, s)).filter((e) => e !== null)
}

/** Where the pictures that are seen dissolve or wipe, in order. */
export function transitionsOf(t: Cut): FrameRange[] {
  // what is seen of ten thousand events takes a while to tell: not where none of them dissolves
  if (!t.events.some((e) => e.kind === 'video' && e.transition)) return []
  return topEvents(t).flatMap(({ record, transition: x }) => (x ? [{ in: record.in, out: record.in + x.frames }] : []))
}

/** The shots of a timeline in order, gaps included as shots without a name, so that they cover it whole. */
export function shotsOf(t: Cut): Shot[] {
  const shots: Shot[] = []
  let at = 0
  for (const e of topEvents(t)) {
    const from = Math.max(at, e.record.in)
    const to = Math.min(t.length, e.record.out)
    if (from > at) shots.push({ in: at, out: Math.min(from, t.length), name: '', reel: '' })
    if (to > from) shots.push({ in: from, out: to, name: e.name, reel: e.reel })
    at = Math.max(at, to)
  }
  if (at < t.length) shots.push({ in: at, out: t.length, name: '', reel: '' })
  return shots
}

/** The frames at which pictures change, from 0 to the timeline's end. */
export function cutsOf(shots: readonly Shot[]): Frames[] {
  return shots.length ? [...shots.map((s) => s.in), shots.at(-1)!.out] : []
}

/** Whether a list leaves open how its sound tracks are to be read: it has several, and not all name their channels. */
export const asksSoundTracks = ({ tracks, events }: Pick<Timeline, 'tracks' | 'events'>): boolean =>
  tracks.filter((x) => x.kind === 'audio').length > 1 &&
  events.some((e) => e.kind === 'audio' && e.source !== null && !e.channels)

/** The number of a sound track, from 1: the digits of its name, else its place among the sound tracks. */
export function soundTrackNumber(t: Pick<Timeline, 'tracks'>, track: string): number {
  const digits = /(\d+)$/.exec(track)
  if (digits) return Math.max(1, Math.min(64, Number(digits[1])))
  return Math.max(1, t.tracks.filter((x) => x.kind === 'audio').findIndex((x) => x.name === track) + 1)
}

/** Channels of the sound tracks in front of one. */
function channelsBefore({ tracks, trackWidths = [] }: Pick<Timeline, 'tracks' | 'trackWidths'>, track: string): number {
  const at = tracks.filter((x) => x.kind === 'audio').findIndex((x) => x.name === track)
  return trackWidths.slice(0, Math.max(0, at)).reduce((n, w) => n + w, 0)
}

/**
 * Which timeline channels a sound event feeds from which source channels, as pairs of 0-based [source, timeline]. A
 * list with a single sound track carries all channels of its source from channel 1 on; with several, each carries one,
 * unless they are said to carry all: the source channel of the track's number, or the only one of a mono source. An
 * event that names its channels is taken at its word: of those that a source does not have, see {@link channelsThere}.
 */
export function soundRoute(
  t: Pick<Timeline, 'tracks' | 'soundTracks' | 'trackWidths'>,
  e: TimelineEvent,
  sourceChannels: number,
): [number, number][] {
  const beside = t.soundTracks === 'beside'
  const first = beside ? channelsBefore(t, e.track) : soundTrackNumber(t, e.track) - 1
  if (e.channels) return e.channels.map((c, i) => [c, first + i])
  if (t.soundTracks === 'mixed') return Array.from({ length: sourceChannels }, (_, i) => [i, i])
  if (beside || t.tracks.filter((x) => x.kind === 'audio').length <= 1)
    return Array.from({ length: sourceChannels }, (_, i) => [i, first + i])
  return [[sourceChannels === 1 ? 0 : first, first]]
}

/**
 * The channels that a route takes of a source, counted round where the source has fewer: the third track of two
 * channels carries the first. Null where it has them all, or none.
 */
export function channelsThere(route: readonly [number, number][], sourceChannels: number): number[] | null {
  if (sourceChannels === 0 || route.every(([c]) => c < sourceChannels)) return null
  return route.map(([c]) => c % sourceChannels)
}
