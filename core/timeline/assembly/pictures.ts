import type { PictureSource } from '../../codec/codec'
import type { MediaInfo, VideoInfo } from '../../media/media'
import { blackPicture, toChroma420, toDepth, type Picture, type Plane } from '../../picture/picture'
import type { Conversion } from '../../kernel/convert'
import { colourOf } from '../../media/colour'
import { conversionOf, converted } from '../../picture/convert'
import { fieldWork, fitScan, toChroma422Of, turned, type FieldWork } from '../../picture/fields'
import { lastWhere } from '../../time/order'
import { overlaps, type FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { mediaFrame } from '../link/place'
import { sourceFrame, type Clip, type Timeline, type TimelineEvent } from '../model'
import { shownOf } from '../overlap'
import { takenBy, type Assembly, type ClipLink, type SourcesTaken } from './assembly'

/**
 * One picture in the making of a frame: what clip, from which record frame it counts, how much of it is laid over what
 * is below.
 */
interface Layer {
  /** The event it is of, as itself or as what goes out under its transition. */
  readonly event: number
  readonly clip: Clip
  readonly link: ClipLink | null
  readonly from: Frames
  readonly weight: ((frame: Frames) => readonly [number, number]) | null
}

/** One video track: indexes of its events as they begin, and how far any up to each of them goes. */
interface Level {
  readonly list: readonly number[]
  readonly reach: readonly Frames[]
}

/** Video events by track, bottom to top. */
function layersOf(t: Timeline): Level[] {
  const kept = levelsOf.get(t)
  if (kept) return kept
  const tracks = t.tracks.filter((x) => x.kind === 'video').map((x) => x.name)
  const lists = tracks.map((): number[] => [])
  t.events.forEach((e, i) => {
    const level = e.kind === 'video' ? tracks.indexOf(e.track) : -1
    if (level >= 0) lists[level]!.push(i)
  })
  const levels = lists.map((list) => {
    list.sort((a, b) => t.events[a]!.record.in - t.events[b]!.record.in || a - b)
    let end = 0
    return { list, reach: list.map((i) => (end = Math.max(end, t.events[i]!.record.out))) }
  })
  levelsOf.set(t, levels)
  return levels
}
const levelsOf = new WeakMap<Timeline, Level[]>()

/**
 * The events that a range shows or lets be heard, by their index: none that lie wholly under others. Transitions count
 * what goes out under them.
 */
export function usedIn(t: Timeline, range: FrameRange): Set<number> {
  const used = new Set<number>()
  const levels = layersOf(t)
  const near = t.events.map((e, i) => ({ e, i })).filter(({ e }) => overlaps(e.record, range))
  const starts = new Set([range.in])
  for (const { e, i } of near) {
    if (e.kind === 'audio') {
      if (!shownOf(t.events, i).some((r) => overlaps(r, range))) continue
      used.add(i)
      const before = fadingUnder(t, e, range)
      if (before >= 0) used.add(before)
      continue
    }
    for (const at of [e.record.in, e.record.out, e.record.in + (e.transition?.frames ?? 0)])
      if (at > range.in && at < range.out) starts.add(at)
  }
  for (const at of starts) for (const layer of chainAt({ timeline: t, links: [] }, levels, at)) used.add(layer.event)
  return used
}

/** The event that fades out under the beginning of one of sound, as far as a range hears it; −1 for none. */
function fadingUnder({ events }: Timeline, { transition, track, record }: TimelineEvent, range: FrameRange): number {
  if (!transition || transition.outgoing) return -1
  if (!overlaps({ in: record.in, out: record.in + transition.frames }, range)) return -1
  return events.findIndex((x) => x.kind === 'audio' && x.track === track && x.record.out === record.in)
}

/** The sources that a stretch of an assembly is made from. */
export function sourcesIn(a: Pick<Assembly, 'timeline' | 'links'>, range: FrameRange): SourcesTaken {
  return takenBy(a, [...usedIn(a.timeline, range)])
}

/** Place in a track's list of the event that is on at a frame: of several the one that began last; −1 for none. */
function showing(events: readonly TimelineEvent[], { list, reach }: Level, frame: Frames): number {
  let at = lastWhere(list.length, (i) => events[list[i]!]!.record.in <= frame)
  while (at >= 0 && events[list[at]!]!.record.out <= frame) at = reach[at]! > frame ? at - 1 : -1
  return at
}

/**
 * The layers of a frame, bottom first; an empty list is black. Dissolve weights are those at the middle of each frame.
 */
function chainAt(a: Pick<Assembly, 'timeline' | 'links'>, levels: readonly Level[], frame: Frames): Layer[] {
  const { events } = a.timeline
  const chain: Layer[] = []
  const own = (i: number, weight: Layer['weight']): Layer => ({
    event: i,
    clip: events[i]!,
    link: a.links[i]?.clip ?? null,
    from: events[i]!.record.in,
    weight,
  })
  for (let level = levels.length - 1; level >= 0; level--) {
    const { list } = levels[level]!
    const at = showing(events, levels[level]!, frame)
    const index = list[at]
    const e = index === undefined ? null : events[index]!
    if (!e || frame >= e.record.out) continue
    const n = e.transition?.frames ?? 0
    const clear = e.source === null && level > 0
    if (!e.transition || frame >= e.record.in + n) {
      if (clear) continue
      chain.unshift(own(index!, null))
      return chain
    }
    const into = (f: Frames) => [2 * (f - e.record.in) + 1, 2 * n] as const
    const previous = e.transition.outgoing ? null : list[at - 1]
    const before: Layer | null = e.transition.outgoing
      ? {
          event: index!,
          clip: e.transition.outgoing,
          link: a.links[index!]?.outgoing ?? null,
          from: e.record.in,
          weight: null,
        }
      : previous !== null &&
          previous !== undefined &&
          events[previous]!.record.out === e.record.in &&
          (events[previous]!.source || level === 0)
        ? own(previous, null)
        : null
    if (clear) {
      if (before)
        chain.unshift({
          ...before,
          weight: (f) => {
            const [num, den] = into(f)
            return [den - num, den]
          },
        })
      continue
    }
    chain.unshift(own(index!, into))
    if (before) {
      chain.unshift(before)
      return chain
    }
  }
  return chain
}

/** Lays `over` on `under`: num/den of it. */
export function mixPictures(under: Picture, over: Picture, num: number, den: number): Picture {
  const half = den >> 1
  const plane = (i: 0 | 1 | 2): Plane => {
    const [p, q] = [under.planes[i], over.planes[i]]
    const out = under.bitDepth === 8 ? new Uint8Array(p.length) : new Uint16Array(p.length)
    const rest = den - num
    for (let k = 0; k < out.length; k++) out[k] = (p[k]! * rest + q[k]! * num + half) / den
    return out
  }
  return { ...under, planes: [plane(0), plane(1), plane(2)] }
}

/**
 * Pictures of a source in any order asked for: forwards in one go, backwards in short stretches, null where it has
 * none.
 */
async function* follow(source: PictureSource, wanted: readonly Frames[]): AsyncGenerator<Picture | null> {
  const there = (n: Frames | undefined): n is Frames => n !== undefined && n >= 0 && n < source.frames
  for (let i = 0; i < wanted.length;) {
    const first = wanted[i]!
    if (!there(first)) {
      i++
      yield null
      continue
    }
    let turn = i + 1
    while (turn < wanted.length && wanted[turn] === first) turn++
    const backwards = there(wanted[turn]) && wanted[turn]! < first
    let j = i + 1
    if (backwards)
      while (
        j < wanted.length &&
        j - i < 48 &&
        there(wanted[j]) &&
        wanted[j]! <= wanted[j - 1]! &&
        first - wanted[j]! < 24
      )
        j++
    else
      while (j < wanted.length && there(wanted[j]) && wanted[j]! >= wanted[j - 1]! && wanted[j]! - wanted[j - 1]! <= 48)
        j++
    if (backwards) {
      const kept = new Map<Frames, Picture>()
      const needed = new Set(wanted.slice(i, j))
      for await (const { frame, picture } of source.read({ in: wanted[j - 1]!, out: first + 1 }))
        if (needed.has(frame)) kept.set(frame, picture)
      for (; i < j; i++) yield kept.get(wanted[i]!)!
    } else {
      for await (const { frame, picture } of source.read({ in: first, out: wanted[j - 1]! + 1 })) {
        for (; i < j && wanted[i] === frame; i++) yield picture
      }
    }
  }
}

/** The frame of its source that a layer shows. */
function frameOf(l: Layer, info: VideoInfo, frame: Frames): Frames {
  const { source, speed } = l.clip as { source: NonNullable<Clip['source']>; speed: Clip['speed'] }
  return mediaFrame(
    sourceFrame(source, speed, frame - l.from),
    l.link!,
    source.rate,
    info.rateStated === false ? source.rate : info.rate,
  )
}

/** What pictures are decoded to: of R′G′B′, of more than 10 bits, no more is kept. */
const decodedAs = (v: VideoInfo) => ({
  ...{ width: v.width, height: v.height, chroma: v.chroma === '4:4:4' ? '4:2:2' : v.chroma },
  bitDepth: Math.min(10, v.bitDepth),
})

const isRaster = (v: ReturnType<typeof decodedAs>, raster: Assembly['raster']) =>
  (['width', 'height', 'chroma', 'bitDepth'] as const).every((k) => v[k] === raster[k])

/** How the pictures of a source are brought to the colour of a timeline; null where nothing is to be done. */
function conversionTo(v: VideoInfo, { raster }: Assembly): Conversion | null {
  return raster.colour ? conversionOf(colourOf(v), raster.colour) : null
}

/** How much wider than those of the raster a source's pixels are. */
const widerIn = ({ wider }: Assembly, { source }: ClipLink) => wider?.[source] ?? 1

/** What becomes of a source's fields. */
const workOn = (v: VideoInfo, { raster }: Assembly): FieldWork => fieldWork(v.scan, raster.scan ?? v.scan)

/**
 * Where a frame of the timeline comes from when it is a source's own, as it is there; null when it is made: in a
 * transition, black, or brought to another raster.
 */
export function untouchedFrames(
  a: Assembly,
  infos: readonly (MediaInfo | null)[],
): (frame: Frames) => { readonly source: number; readonly frame: Frames } | null {
  const levels = layersOf(a.timeline)
  return (frame) => {
    const [layer, more] = chainAt(a, levels, frame)
    if (!layer?.link || more || layer.weight || !layer.clip.source) return null
    const v = infos[layer.link.source]?.video[0]
    if (!v || !isRaster(decodedAs(v), a.raster) || widerIn(a, layer.link) !== 1) return null
    if (conversionTo(v, a) || !['keep', 'none'].includes(workOn(v, a))) return null
    const own = frameOf(layer, v, frame)
    return own >= 0 && own < v.frames ? { source: layer.link.source, frame: own } : null
  }
}

/** What opening a source gives: its own rate, and its pictures. */
export interface OpenedPictures {
  readonly info: VideoInfo
  readonly pictures: PictureSource
}

/**
 * The pictures of an assembled timeline: cuts, dissolves (wipes as dissolves), gaps as black, speed changes by the
 * nearest frame, the topmost layer seen. Sources in another raster are fitted with bars, those of another colour are
 * converted; frames a source does not have are black.
 */
export function assemblePictures(a: Assembly, open: (source: number) => OpenedPictures | null): PictureSource {
  const { timeline: t, raster } = a
  const levels = layersOf(t)
  const black = blackPicture(raster.width, raster.height, raster.chroma, raster.bitDepth)
  const fitted = (own: Picture | null, conversion: Conversion | null, work: FieldWork, aspect: number): Picture => {
    if (!own) return black
    const p = conversion ? converted(own, conversion) : own
    const depth = toDepth(p, raster.bitDepth)
    const chroma = raster.chroma === '4:2:2' ? turned(toChroma422Of(depth, work), work) : toChroma420(depth)
    const same = p.width === raster.width && p.height === raster.height && aspect === 1 && work !== 'join'
    return same ? chroma : fitScan(chroma, { ...raster, fit: 'letterbox', aspect }, work)
  }
  const stream = (l: Layer, range: FrameRange) => {
    const source = l.link && l.clip.source ? open(l.link.source) : null
    if (!source) return null
    const wanted: Frames[] = []
    for (let f = range.in; f < range.out; f++) wanted.push(frameOf(l, source.info, f))
    return {
      pictures: follow(source.pictures, wanted),
      conversion: conversionTo(source.info, a),
      work: workOn(source.info, a),
      aspect: widerIn(a, l.link!),
    }
  }
  const edges = [
    ...new Set(
      t.events
        .filter((e) => e.kind === 'video')
        .flatMap((e) => [
          e.record.in,
          e.record.out,
          ...(e.transition ? [Math.min(e.record.out, e.record.in + e.transition.frames)] : []),
        ]),
    ),
  ].sort((x, y) => x - y)
  return {
    frames: t.length,
    async *read(range) {
      const cuts = [range.in, ...edges.filter((x) => x > range.in && x < range.out), range.out]
      for (let k = 0; k + 1 < cuts.length; k++) {
        const span = { in: cuts[k]!, out: cuts[k + 1]! }
        const chain = chainAt(a, levels, span.in)
        const streams = chain.map((l) => stream(l, span))
        try {
          for (let frame = span.in; frame < span.out; frame++) {
            let picture = black
            for (let i = 0; i < chain.length; i++) {
              const next = streams[i] ? await streams[i]!.pictures.next() : null
              const own = fitted(
                next && !next.done ? next.value : null,
                streams[i]?.conversion ?? null,
                streams[i]?.work ?? 'none',
                streams[i]?.aspect ?? 1,
              )
              const weight = chain[i]!.weight?.(frame)
              picture = weight ? mixPictures(picture, own, weight[0], weight[1]) : own
            }
            yield { frame, picture }
          }
        } finally {
          for (const s of streams) await s?.pictures.return(undefined)
        }
      }
    },
  }
}
