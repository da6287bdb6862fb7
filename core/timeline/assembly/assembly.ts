import type { FilePath } from '../../media/filepath'
import type { Fingerprint } from '../../media/fingerprint'
import { aspectValue, widerThan } from '../../media/aspect'
import { colourOf, colourValue, convertible } from '../../media/colour'
import { dataText } from '../../media/ancillary'
import {
  describedEdition,
  isReduced,
  type AudioInfo,
  type Colour,
  type DataInfo,
  type MediaInfo,
  type Scan,
  type VideoInfo,
} from '../../media/media'
import { hasFields } from '../../media/scan'
import { fieldWork, turnsFields } from '../../picture/fields'
import type { Problem } from '../../problem'
import { layoutOf, saidLayout, sourceChannels, unnamed } from '../../sound/layout'
import { soundRate, tracksTaken } from '../../sound/tracks'
import { overlaps, type FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { sampleAtFrame } from '../../time/samples'
import { formatTimecode } from '../../time/timecode'
import { framesGiven } from '../link/frames'
import type { Linking, MediaFile } from '../link/source'
import { usualOf } from '../link/trouble'
import { channelsThere, isSoundAlone, soundRoute, type Timeline, type TimelineEvent } from '../model'
import { sourceAt, type SourcePlace } from '../sourceat'

/** Which source a clip's frames are in, and from which frame label they count. */
export interface ClipLink {
  readonly source: number
  readonly offset: Frames
  /** Source channels that its sound takes, where the source does not have those that it should. */
  readonly channels?: readonly number[]
}

/** What a clip of a sound event takes of its source's channels: pairs of 0-based [source, timeline]. */
export function routeOfClip(
  t: Timeline,
  e: TimelineEvent,
  { channels }: ClipLink,
  sourceChannels: number,
): [number, number][] {
  return soundRoute(t, e, sourceChannels).map(([c, to], i) => [channels?.[i] ?? c, to])
}

/** A timeline with its media: everything needed to make its pictures and sound. */
export interface Assembly {
  readonly timeline: Timeline
  readonly sources: readonly MediaFile[]
  readonly links: readonly { readonly clip: ClipLink | null; readonly outgoing: ClipLink | null }[]
  /** What all pictures are brought to. */
  readonly raster: {
    readonly width: number
    readonly height: number
    readonly chroma: '4:2:0' | '4:2:2'
    readonly bitDepth: 8 | 10
    readonly pixelAspect: number
    /** Where sources are of several colours; absent where they are shown as they are. */
    readonly colour?: Colour
    /** Where some have fields and others none; absent where they are as they are. */
    readonly scan?: Scan
  }
  /** How much wider than those of the raster a source's pixels are, by index; absent where all are of one shape. */
  readonly wider?: Readonly<Record<number, number>>
  readonly sampleRate: number
  readonly channels: number
  /** What more than two of them are said to be by their sources; absent where nothing says it. */
  readonly layout?: string
  /** Sources whose sound is brought to this sample rate, by index; absent where there are none. */
  readonly resampled?: readonly number[]
}

/** Puts a timeline and its links together. `info` tells of each linked file; files that are not used are left out. */
export function makeAssembly(
  given: Timeline,
  linking: Pick<Linking, 'links'>,
  info: (file: MediaFile) => MediaInfo | null,
): Assembly {
  const sources: MediaFile[] = []
  const indexOf = (file: MediaFile) => {
    const at = sources.findIndex((s) => s.root === file.root && s.path === file.path)
    return at >= 0 ? at : sources.push(file) - 1
  }
  const places = linking.links.map((l) => ({
    clip: l.clip && { source: indexOf(l.clip.file), offset: l.clip.offset },
    outgoing: l.outgoing && { source: indexOf(l.outgoing.file), offset: l.outgoing.offset },
  }))
  const infos = sources.map(info)
  const timeline = given.soundTracks === 'beside' ? { ...given, trackWidths: widthsOf(given, places, infos) } : given
  const withChannels = (link: ClipLink | null, e: TimelineEvent) => {
    const own = link && e.kind === 'audio' ? channelsOf(infos[link.source]) : 0
    const channels = channelsThere(soundRoute(timeline, e, own), own)
    return link && channels ? { ...link, channels } : link
  }
  const links = places.map(({ clip, outgoing }, k) => ({
    clip: withChannels(clip, timeline.events[k]!),
    outgoing: withChannels(outgoing, timeline.events[k]!),
  }))
  const seen = framesGiven(timeline, links, 'video', (l) => l.source)
  const byWeight = [...seen.keys()].filter((i) => infos[i]?.video[0]).sort((a, b) => seen.get(b)! - seen.get(a)!)
  const usual = usualOf(timeline, links, (l) => infos[l.source] ?? null)
  const lead = usual.raster
  const wider = byWeight.flatMap((i) => {
    const by = widerThan(infos[i]!.video[0]!.pixelAspect, lead!.pixelAspect)
    return by === 1 ? [] : [[i, by] as const]
  })
  const pictures = byWeight.map((i) => infos[i]!.video[0]!)
  const differ = new Set(pictures.map((v) => hasFields(v.scan))).size > 1 || ordersOf(pictures).size > 1
  const scan = differ ? lead!.scan : null
  const turns = scan !== null && pictures.some((v) => turnsFields(fieldWork(v.scan, scan)))
  const colours = pictures.map(colourOf)
  return {
    timeline,
    sources,
    links,
    ...(wider.length ? { wider: Object.fromEntries(wider) } : {}),
    ...soundOfAll(timeline, links, infos, usual.sampleRate ?? 48_000),
    raster: {
      width: lead?.width ?? 1920,
      height: lead?.height ?? 1080,
      pixelAspect: aspectValue(lead?.pixelAspect ?? '1:1'),
      chroma: pictures.some((v) => v.chroma !== '4:2:0' && v.webCodec === null) || turns ? '4:2:2' : '4:2:0',
      bitDepth: pictures.some((v) => v.bitDepth > 8 && v.webCodec === null) ? 10 : 8,
      ...(new Set(colours.map(colourValue)).size > 1 && colours.every(convertible) ? { colour: colours[0]! } : {}),
      ...(scan ? { scan } : {}),
    },
  }
}

/** How many channels each sound track carries: as many as any of its events, and one at least. */
function widthsOf(t: Timeline, links: Assembly['links'], infos: readonly (MediaInfo | null)[]): number[] {
  const width = (e: TimelineEvent, k: number) => {
    const own = Object.values(links[k]!).map((link: ClipLink | null) => (link ? channelsOf(infos[link.source]) : 0))
    return e.channels?.length ?? Math.max(...own)
  }
  return t.tracks
    .filter((x) => x.kind === 'audio')
    .map((x) => Math.max(1, ...t.events.map((e, k) => (e.kind === 'audio' && e.track === x.name ? width(e, k) : 0))))
}

/** Sound of all events together at a sample rate, on as many channels as they feed. */
function soundOfAll(
  timeline: Timeline,
  links: Assembly['links'],
  infos: readonly (MediaInfo | null)[],
  sampleRate: number,
): Pick<Assembly, 'sampleRate' | 'channels' | 'resampled' | 'layout'> {
  const heardIn = takenBy({ timeline, links }, [...timeline.events.keys()]).audio
  const resampled = heardIn.filter((i) => infos[i]?.audio.length && soundRate(infos[i].audio) !== sampleRate)
  const channels = timeline.events.reduce((n, e, k) => {
    const link = links[k]!.clip
    if (e.kind !== 'audio' || !e.source) return n
    const own = link ? channelsOf(infos[link.source]) : 0
    return Math.max(n, ...soundRoute(timeline, e, own).map(([, to]) => to + 1))
  }, 0)
  const layout = channels > 2 ? layoutFed(timeline, links, infos, channels) : null
  return { sampleRate, channels, ...(layout ? { layout } : {}), ...(resampled.length ? { resampled } : {}) }
}

/**
 * What the channels of a timeline are by all that feeds them; null where not all is said to be the same. Of tracks that
 * lie side by side each is for itself: two channels are a pair there, and one that nothing names takes nothing away.
 */
function layoutFed(
  timeline: Timeline,
  links: Assembly['links'],
  infos: readonly (MediaInfo | null)[],
  channels: number,
): string | null {
  const fed = Array.from({ length: channels }, () => new Set<string>())
  const beside = timeline.soundTracks === 'beside'
  const said = infos.map((info) => {
    const names = info && (saidLayout(info.audio) ?? (beside && channelsOf(info) === 2 ? layoutOf(2) : null))
    return names?.split(' ')
  })
  timeline.events.forEach((e, k) => {
    const link = links[k]!.clip
    if (e.kind !== 'audio' || !link) return
    const names = said[link.source]
    for (const [c, to] of routeOfClip(timeline, e, link, channelsOf(infos[link.source])))
      fed[to]?.add(names?.[c] ?? unnamed)
  })
  const names = fed.map((all) => (all.size === 1 ? [...all][0]! : unnamed))
  const known = beside ? names.some((name) => name !== unnamed) : !names.includes(unnamed)
  return known ? names.join(' ') : null
}

/** The sources that events take from, by index: their pictures, their sound, and either. */
export interface SourcesTaken {
  readonly video: readonly number[]
  readonly audio: readonly number[]
  readonly all: readonly number[]
  /** The events that take from them, by index. */
  readonly events: readonly number[]
}

/** What some events of an assembly take from; `events`: their indices. */
export function takenBy(
  { timeline, links }: Pick<Assembly, 'timeline' | 'links'>,
  events: readonly number[],
): SourcesTaken {
  const of = (some: readonly number[]) => [
    ...new Set(some.flatMap((i) => [links[i]!.clip, links[i]!.outgoing].flatMap((l) => l?.source ?? []))),
  ]
  const kind = (k: 'video' | 'audio') => of(events.filter((i) => timeline.events[i]!.kind === k))
  return { video: kind('video'), audio: kind('audio'), all: of(events), events }
}

/** The sound tracks that events take from, of those files that are known. */
export function soundIn(
  { timeline, links }: Pick<Assembly, 'timeline' | 'links'>,
  infos: readonly (MediaInfo | null)[],
  events: readonly number[],
): AudioInfo[] {
  const taken = events.flatMap((i) => {
    const e = timeline.events[i]!
    if (e.kind !== 'audio') return []
    return [links[i]!.clip, links[i]!.outgoing].flatMap((link) => {
      const info = link && infos[link.source]
      if (!info) return []
      const route = routeOfClip(timeline, e, link, channelsOf(info)).map(([c]) => c)
      return tracksTaken(info.audio, route)
    })
  })
  return [...new Set(taken)]
}

/** Channels of all sound tracks together. */
export const channelsOf = (info: MediaInfo | null | undefined) => (info ? sourceChannels(info) : 0)

/** What is said where pictures cannot be brought to one colour. */
const severalColours: Problem = {
  code: 'assembly.colour',
  message:
    'Its pictures are of several colours, which are not brought to one here: all are shown as if they were of one.',
  fix: 'Ask for pictures of one colour throughout.',
}

/** What is said where sources may not agree which of their fields comes first. */
const severalOrders: Problem = {
  code: 'assembly.field-order',
  message: 'Not all of its sources say which of their fields comes first: those of another order will judder.',
  fix: 'Ask for sources that say it, or deliver those stretches by themselves.',
}
const ordersOf = (videos: readonly VideoInfo[]) => new Set(videos.map((v) => v.scan).filter(hasFields))
const unsaidOrder = (videos: readonly VideoInfo[]) => ordersOf(videos).size > 1 && ordersOf(videos).has('interlaced')

/** What its sources have besides pictures and sound, each kind of it once; null where not all were looked at for it. */
function differentData(used: readonly MediaInfo[]): DataInfo[] | null {
  if (used.some((x) => !x.data)) return null
  const all = used.flatMap((x) => x.data ?? [])
  return all.filter((d, i) => all.findIndex((other) => dataText(other) === dataText(d)) === i)
}

/** What is said of the pictures of several sources as one. */
function together(videos: readonly VideoInfo[]) {
  const kinds = [...new Set(videos.map((v) => v.codec))]
  const untold = [...new Set(videos.flatMap((v) => v.untold ?? []))]
  return {
    codec: kinds.join('+') || 'v210',
    ...(kinds.length > 1 ? { codecs: kinds } : {}),
    ...(videos.some((v) => v.alpha) ? { alpha: true as const } : {}),
    ...(untold.length ? { untold } : {}),
    intra: videos.every((v) => v.intra),
    webCodec: videos.find((v) => v.webCodec !== null)?.webCodec ?? null,
    reduced: videos.some(isReduced),
  }
}

const picturesIn = (infos: readonly MediaInfo[]) => infos.flatMap((x) => x.video.slice(0, 1))

const infosOf = (infos: readonly (MediaInfo | null)[], sources: readonly number[]) =>
  sources.flatMap((i) => infos[i] ?? [])

/** What an assembled timeline is over a stretch that takes from some of its sources: of the others nothing is said. */
export function narrowedTo(
  whole: MediaInfo,
  infos: readonly (MediaInfo | null)[],
  taken: SourcesTaken,
  heard: readonly AudioInfo[],
): MediaInfo {
  const seen = infosOf(infos, taken.video)
  const videos = picturesIn(seen)
  const data = differentData(seen)
  const kept = whole.video.map(({ codecs: _codecs, alpha: _alpha, untold: _untold, ...own }) => own)
  return {
    ...whole,
    ...(data ? { data } : {}),
    video: videos.length ? kept.map((own) => ({ ...own, ...together(videos) })) : whole.video,
    audio: whole.audio.map(({ codecs: _kinds, ...a }) => ({ ...a, ...soundOf(heard) })),
  }
}

/** What several tracks are together: PCM, of whatever kinds it is made. */
function soundOf(all: readonly AudioInfo[]): Pick<AudioInfo, 'codec' | 'codecs' | 'bitDepth'> {
  const kinds = [...new Set(all.map((s) => s.codec))]
  return {
    codec: 'pcm',
    ...(kinds.some((k) => k !== 'pcm') ? { codecs: kinds } : {}),
    bitDepth: Math.min(24, Math.max(16, ...all.map((s) => s.bitDepth))),
  }
}

/** What the assembled timeline is as media: the frame of the source most of it comes from, sound as PCM. */
export function assemblyInfo(a: Assembly, infos: readonly (MediaInfo | null)[]): MediaInfo {
  const { timeline: t, raster } = a
  const taken = takenBy(a, [...t.events.keys()])
  const [used, seen] = [infosOf(infos, taken.all), infosOf(infos, taken.video)]
  const videos = picturesIn(seen)
  const shape = (v: VideoInfo) => [v.width, v.height, aspectValue(v.pixelAspect)].join()
  const own = [raster.width, raster.height, raster.pixelAspect].join()
  const lead = videos.find((v) => shape(v) === own) ?? null
  const one = (of: (v: VideoInfo) => unknown) => new Set(videos.map(of)).size <= 1
  const samples = sampleAtFrame(t.length, t.rate, a.sampleRate)
  const data = differentData(seen)
  const now = used.every((x) => x.edition === describedEdition)
  return {
    container: 'mov',
    indexAt: 'front',
    size: used.reduce((n, x) => n + x.size, 0),
    durationFrames: t.length,
    durationSeconds: (t.length * t.rate.den) / t.rate.num,
    timecode: { start: formatTimecode(t.start, t), startFrames: t.start, rate: t.rate, dropFrame: t.dropFrame },
    chapters: [],
    ...(data ? { data } : {}),
    bext: null,
    problems: [
      ...(one((v) => colourValue(colourOf(v))) || raster.colour ? [] : [severalColours]),
      ...(raster.scan && hasFields(raster.scan) && unsaidOrder(videos) ? [severalOrders] : []),
    ],
    video: isSoundAlone(t)
      ? []
      : [
          {
            ...together(videos),
            profile: lead && one((v) => v.profile) ? lead.profile : null,
            level: null,
            width: raster.width,
            height: raster.height,
            rate: t.rate,
            constantRate: true,
            scan: raster.scan ?? lead?.scan ?? 'progressive',
            chroma: lead && one((v) => v.chroma) ? lead.chroma : raster.chroma,
            bitDepth: Math.max(raster.bitDepth, ...videos.map((v) => v.bitDepth)),
            pixelAspect: lead?.pixelAspect ?? '1:1',
            colour: raster.colour ?? (lead && one((v) => colourValue(colourOf(v))) ? colourOf(lead) : null),
            frames: t.length,
          },
        ],
    ...(now ? { edition: describedEdition } : {}),
    audio: a.channels
      ? [
          {
            ...soundOf(soundIn(a, infos, taken.events)),
            channels: a.channels,
            sampleRate: a.sampleRate,
            samples,
            layout: a.layout ?? null,
            webCodec: null,
          },
        ]
      : [],
  }
}

/** An assembly whose media is frozen: each source with its fingerprint. */
export type FrozenAssembly = Omit<Assembly, 'sources'> & {
  readonly sources: readonly (FilePath & { readonly fingerprint: Fingerprint })[]
}

/** The part of an assembly that a range needs, transitions and handles included; sources keep their places. */
export function trimAssembly<T extends Assembly>(a: T, range: FrameRange): T {
  const reach = { in: range.in - 4, out: range.out + 4 }
  const kept = new Set<number>()
  a.timeline.events.forEach((e, i) => {
    if (!overlaps(e.record, reach)) return
    kept.add(i)
    if (e.transition && !e.transition.outgoing)
      a.timeline.events.forEach(
        (x, k) => x.kind === e.kind && x.track === e.track && x.record.out === e.record.in && kept.add(k),
      )
  })
  const keep = <T>(list: readonly T[]) => list.filter((_, i) => kept.has(i))
  return { ...a, timeline: { ...a.timeline, events: keep(a.timeline.events), markers: [] }, links: keep(a.links) }
}

/** Where the picture of a frame of an assembly was taken from, by the timecodes of its files. */
export function placeIn(
  a: Pick<Assembly, 'timeline' | 'links'>,
  infos: readonly (MediaInfo | null)[],
  frame: Frames,
): SourcePlace | null {
  return sourceAt(a.timeline, frame, (event) => {
    const link = a.links[event]?.clip
    return link ? { timecode: infos[link.source]?.timecode ?? null, offset: link.offset } : null
  })
}
