import { overlaps, type FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { isNormal, type Clip, type TimelineEvent } from '../model'
import type { ClipLink, FrozenAssembly } from './assembly'

/** What is seen and heard in a range of an assembly, counted from its first frame. */
export interface Essence {
  /** Contents of the files that it takes from, in order. */
  readonly files: readonly string[]
  /** The same for two ranges only where every picture and sample is the same, whatever timelines they lie in. */
  readonly made: unknown
}

/**
 * The essence of a range. Events are told as they are, also beyond its ends; only where one without transition at
 * normal speed reaches out of it, is what lies outside left out: two ranges that are told alike are alike, though two
 * that are alike may be told apart. `written` is the sample rate that its sound is brought to; null tells of pictures
 * alone.
 */
export function essenceOf(a: FrozenAssembly, range: FrameRange, written: number | null): Essence {
  const { timeline: t, raster, sampleRate, channels } = a
  const isTold = ({ kind }: Pick<TimelineEvent, 'kind'>) => written !== null || kind === 'video'
  const told = t.tracks.filter(isTold)
  const files = new Set<string>()
  const clip = (c: Clip, link: ClipLink | null, cut: FrameRange) => {
    if (!c.source) return 'black'
    if (!link) return 'missing'
    const { content } = a.sources[link.source]!.fingerprint
    files.add(content)
    const { rate } = c.source
    const channels = link.channels ? [link.channels] : []
    return [
      content,
      c.source.in + cut.in - link.offset,
      c.source.out - cut.out - link.offset,
      rate,
      c.speed,
      ...channels,
    ]
  }
  const whole = { in: 0, out: 0 }
  const isResampled = (link: ClipLink | null) => link !== null && a.resampled?.includes(link.source)
  const level = (e: TimelineEvent) => told.findIndex((x) => x.kind === e.kind && x.name === e.track)
  /** Transitions that reach into the range, by the track and the frame they begin at: what ends there goes on. */
  const place = (e: TimelineEvent, at: Frames) => `${e.kind} ${e.track} ${at}`
  const goOn = new Set(
    t.events.flatMap((x) => (x.transition && overlaps(x.record, range) ? place(x, x.record.in) : [])),
  )
  const made = t.events.flatMap((e, i) => {
    const under = goOn.has(place(e, e.record.out))
    if (!isTold(e) || (!overlaps(e.record, range) && !under)) return []
    const plain = isNormal(e.speed) && !e.transition && !under
    const cut = plain ? { in: Math.max(0, range.in - e.record.in), out: Math.max(0, e.record.out - range.out) } : whole
    const { transition: x } = e
    return [
      {
        level: level(e),
        at: [e.record.in + cut.in - range.in, e.record.out - cut.out - range.in],
        clip: clip(e, a.links[i]!.clip, cut),
        transition: x && [x.kind, x.frames, x.outgoing ? clip(x.outgoing, a.links[i]!.outgoing, whole) : null],
        channels: e.channels ?? null,
        gain: e.gain ?? 0,
        ...widerTold(a, e, i),
        ...(e.kind === 'audio' && Object.values(a.links[i]!).some(isResampled) ? { resampled: true } : {}),
      },
    ]
  })
  // samples of a frame are another number at another place, where a frame is no whole number of them
  const phase = (rates: readonly number[]) => rates.map((r) => (range.in * r * t.rate.den) % t.rate.num)
  const { soundTracks, trackWidths } = t
  const reading = { ...(soundTracks ? { soundTracks } : {}), ...(trackWidths ? { trackWidths } : {}) }
  const heard = { sampleRate, channels, ...reading }
  const sound = written === null ? {} : { ...heard, phase: phase([sampleRate, written]) }
  const tracks = told.map((x) => x.kind)
  const length = range.out - range.in
  return { files: [...files].sort(), made: { raster, ...sound, rate: t.rate, length, tracks, made } }
}

/** How much wider than those of the raster the pixels of an event's sources are, where they are. */
function widerTold(
  { wider, links }: FrozenAssembly,
  { kind }: TimelineEvent,
  i: number,
): { wider?: readonly number[] } {
  const own = [links[i]!.clip, links[i]!.outgoing].map((l) => (l && kind === 'video' ? (wider?.[l.source] ?? 1) : 1))
  return own.every((x) => x === 1) ? {} : { wider: own }
}
