import type { SoundSource } from '../../codec/codec'
import { layoutOf } from '../../sound/layout'
import { resampled } from '../../sound/resample'
import type { FrameRange } from '../../time/range'
import type { Frames, Samples } from '../../time/rate'
import { mulDivFloor, sampleAtFrame } from '../../time/samples'
import { isNormal, type Clip, type SourceRange, type TimelineEvent } from '../model'
import { shownOf } from '../overlap'
import { routeOfClip, type Assembly, type ClipLink } from './assembly'

/** A stretch of one clip's sound: where it lies, on which channels, how loud, how it comes and goes. */
interface Part {
  readonly clip: Clip & { readonly source: SourceRange }
  readonly link: ClipLink
  readonly route: readonly [number, number][]
  readonly gain: number
  /** Where the clip's first sample would lie; the part itself is [from, to). */
  readonly base: Samples
  readonly from: Samples
  readonly to: Samples
  readonly rise: readonly [Samples, Samples] | null
  readonly fall: readonly [Samples, Samples] | null
}

type OpenSound = (source: number) => SoundSource | null

/**
 * The sound of an assembled timeline: every sound event on its channels, with its level, at its speed by the nearest
 * sample; dissolves are straight crossfades; what nothing covers is silent.
 */
export function assembleSound(a: Assembly, openOwn: OpenSound): SoundSource | null {
  const { timeline: t, sampleRate } = a
  if (a.channels === 0) return null
  const open: OpenSound = (source) => {
    const own = openOwn(source)
    return own && a.resampled?.includes(source) ? { ...own, ...resampled(own, sampleRate) } : own
  }
  const parts = partsOf(a, open)
  return {
    channels: a.channels,
    sampleRate,
    samples: sampleAtFrame(t.length, t.rate, sampleRate),
    layout: a.layout ?? layoutOf(a.channels),
    async read(from, count) {
      const out = Array.from({ length: a.channels }, () => new Float32Array(count))
      for (const p of parts) {
        const first = Math.max(from, p.from)
        const last = Math.min(from + count, p.to)
        if (last > first) await mixPart(out, p, from, first, last, open(p.link.source)!)
      }
      return out
    },
  }
}

/** All parts of a timeline's sound: events, and what goes on under the transition that follows it. */
function partsOf(a: Assembly, open: OpenSound): Part[] {
  const { timeline: t, sampleRate } = a
  const at = (frame: Frames) => sampleAtFrame(frame, t.rate, sampleRate)
  const parts: Part[] = []
  const add = (
    event: TimelineEvent,
    clip: Clip,
    link: ClipLink | null,
    base: Frames,
    range: FrameRange,
    ramps: Pick<Part, 'rise' | 'fall'>,
  ) => {
    if (!link || !clip.source || clip.speed.num === 0) return
    const sound = open(link.source)
    if (!sound || sound.sampleRate !== sampleRate) return
    parts.push({
      clip: { ...clip, source: clip.source },
      link,
      route: routeOfClip(t, event, link, sound.channels),
      gain: 10 ** ((event.gain ?? 0) / 20),
      base: at(base),
      from: at(range.in),
      to: at(range.out),
      ...ramps,
    })
  }
  t.events.forEach((e, i) => {
    if (e.kind !== 'audio') return
    const start = e.record.in
    const ramp = [at(start), at(start + (e.transition?.frames ?? 0))] as const
    for (const range of shownOf(t.events, i))
      add(e, e, a.links[i]!.clip, start, range, { rise: e.transition ? ramp : null, fall: null })
    if (!e.transition) return
    const under = { in: start, out: Math.min(e.record.out, start + e.transition.frames) }
    const fall = { rise: null, fall: ramp }
    if (e.transition.outgoing) return add(e, e.transition.outgoing, a.links[i]!.outgoing, start, under, fall)
    const k = t.events.findIndex((x) => x.kind === 'audio' && x.track === e.track && x.record.out === start)
    const before = t.events[k]
    if (before) add(before, before, a.links[k]!.clip, before.record.in, under, fall)
  })
  return parts
}

/** Adds samples [first, last) of a part to channels that begin at sample `from`. */
async function mixPart(
  out: readonly Float32Array[],
  p: Part,
  from: Samples,
  first: Samples,
  last: Samples,
  sound: SoundSource,
): Promise<void> {
  const { source, speed } = p.clip
  const { sampleRate } = sound
  const start =
    speed.num < 0
      ? sampleAtFrame(source.out - p.link.offset, source.rate, sampleRate) - 1
      : sampleAtFrame(source.in - p.link.offset, source.rate, sampleRate)
  const place = (n: Samples) => start + Math.sign(speed.num) * mulDivFloor(n - p.base, Math.abs(speed.num), speed.den)
  const [x, y] = [place(first), place(last - 1)]
  const low = Math.min(x, y)
  const wanted = p.route.map(([c]) => c)
  const block = await sound.read(low, Math.max(x, y) - low + 1, wanted)
  const weight = (n: Samples) => {
    const ramp = p.rise ?? p.fall
    if (!ramp || n >= ramp[1]) return 1
    const w = (2 * (n - ramp[0]) + 1) / (2 * (ramp[1] - ramp[0]))
    return p.rise ? w : 1 - w
  }
  const plain = isNormal(speed) && p.gain === 1 && !p.rise && !p.fall
  for (const [c, to] of p.route) {
    const channel = block[c]
    const target = out[to]
    if (!channel || !target) continue
    for (let n = first; n < last; n++)
      target[n - from]! += plain
        ? channel[n - first]!
        : channel[isNormal(speed) ? n - first : place(n) - low]! * p.gain * weight(n)
  }
}
