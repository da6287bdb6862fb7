import type { FilePath } from '../../media/filepath'
import type { Fingerprint } from '../../media/fingerprint'
import type { PictureSource, SoundSource } from '../../codec/codec'
import type { MediaInfo, VideoInfo } from '../../media/media'
import { blackPicture, toChroma420, toChroma422, toDepth, type Picture, type Plane } from '../../picture/picture'
import { fitPicture } from '../../picture/scale'
import type { Problem } from '../../problem'
import { lastWhere } from '../../time/order'
import { overlaps, type FrameRange } from '../../time/range'
import { sameRate, type Frames, type Samples } from '../../time/rate'
import { mulDivFloor, sampleAtFrame } from '../../time/samples'
import { formatTimecode } from '../../time/timecode'
import { mediaFrame, type Linking, type MediaFile, type Source } from '../link'
import { isNormal, soundRoute, sourceFrame, type Clip, type Timeline, type TimelineEvent } from '../model'

/** Which source a clip's frames are in, and from which frame label they count. */
export interface ClipLink {
  readonly source: number
  readonly offset: Frames
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
  }
  readonly sampleRate: number
  readonly channels: number
}

/** Puts a timeline and its links together. `info` tells of each linked file; files that are not used are left out. */
export function makeAssembly(
  timeline: Timeline,
  linking: Pick<Linking, 'links'>,
  info: (file: MediaFile) => MediaInfo | null,
): Assembly {
  const sources: MediaFile[] = []
  const indexOf = (file: MediaFile) => {
    const at = sources.findIndex((s) => s.root === file.root && s.path === file.path)
    return at >= 0 ? at : sources.push(file) - 1
  }
  const links = linking.links.map((l) => ({
    clip: l.clip && { source: indexOf(l.clip.file), offset: l.clip.offset },
    outgoing: l.outgoing && { source: indexOf(l.outgoing.file), offset: l.outgoing.offset },
  }))
  const infos = sources.map(info)
  const weights = sources.map((_, i) =>
    timeline.events.reduce(
      (n, e, k) =>
        n +
        (e.kind !== 'video'
          ? 0
          : (links[k]!.clip?.source === i ? e.record.out - e.record.in : 0) +
            (links[k]!.outgoing?.source === i ? e.transition!.frames : 0)),
      0,
    ),
  )
  const byWeight = sources
    .map((_, i) => i)
    .filter((i) => weights[i]! > 0 && infos[i]?.video[0])
    .sort((a, b) => weights[b]! - weights[a]!)
  const lead = byWeight[0] === undefined ? null : infos[byWeight[0]]!.video[0]!
  const pictures = byWeight.map((i) => infos[i]!.video[0]!)
  const [aspectX, aspectY] = (lead?.pixelAspect ?? '1:1').split(':').map(Number)
  const heard = new Map<number, number>()
  timeline.events.forEach((e, k) => {
    const rate = links[k]!.clip ? infos[links[k]!.clip!.source]?.audio[0]?.sampleRate : undefined
    if (e.kind === 'audio' && rate) heard.set(rate, (heard.get(rate) ?? 0) + e.record.out - e.record.in)
  })
  const sampleRate = [...heard].sort((a, b) => b[1] - a[1])[0]?.[0] ?? 48000
  const channels = timeline.events.reduce((n, e, k) => {
    const link = links[k]!.clip
    if (e.kind !== 'audio' || !e.source) return n
    const own = link ? channelsOf(infos[link.source]) : 0
    return Math.max(n, ...soundRoute(timeline, e, own).map(([, to]) => to + 1))
  }, 0)
  return {
    timeline,
    sources,
    links,
    sampleRate,
    channels,
    raster: {
      width: lead?.width ?? 1920,
      height: lead?.height ?? 1080,
      pixelAspect: aspectX && aspectY ? aspectX / aspectY : 1,
      chroma: pictures.some((v) => v.chroma !== '4:2:0' && v.webCodec === null) ? '4:2:2' : '4:2:0',
      bitDepth: pictures.some((v) => v.bitDepth > 8 && v.webCodec === null) ? 10 : 8,
    },
  }
}

const channelsOf = (info: MediaInfo | null | undefined) => info?.audio.reduce((n, a) => n + a.channels, 0) ?? 0

/** What the assembled timeline is as media: the frame of the source most of it comes from, sound as PCM. */
export function assemblyInfo(a: Assembly, infos: readonly (MediaInfo | null)[]): MediaInfo {
  const { timeline: t, raster } = a
  const used = infos.filter((x) => x !== null)
  const videos = used.map((x) => x.video[0]).filter((v): v is VideoInfo => v !== undefined)
  const lead = videos.find((v) => v.width === raster.width && v.height === raster.height) ?? null
  const kinds = [...new Set(videos.map((v) => v.codec))]
  const one = (of: (v: VideoInfo) => unknown) => new Set(videos.map(of)).size <= 1
  const sampleDepth = Math.max(16, ...used.flatMap((x) => x.audio.map((s) => s.bitDepth)))
  const samples = sampleAtFrame(t.length, t.rate, a.sampleRate)
  return {
    container: 'mov',
    indexAt: 'front',
    size: used.reduce((n, x) => n + x.size, 0),
    durationFrames: t.length,
    durationSeconds: (t.length * t.rate.den) / t.rate.num,
    timecode: { start: formatTimecode(t.start, t), startFrames: t.start, rate: t.rate, dropFrame: t.dropFrame },
    chapters: [],
    bext: null,
    problems: [],
    video: [
      {
        codec: kinds.join('+') || 'v210',
        ...(kinds.length > 1 ? { codecs: kinds } : {}),
        profile: lead && one((v) => v.profile) ? lead.profile : null,
        level: null,
        width: raster.width,
        height: raster.height,
        rate: t.rate,
        constantRate: true,
        scan: lead?.scan ?? 'progressive',
        chroma: lead && one((v) => v.chroma) ? lead.chroma : raster.chroma,
        bitDepth: Math.max(raster.bitDepth, ...videos.map((v) => v.bitDepth)),
        pixelAspect: lead?.pixelAspect ?? '1:1',
        colour: lead && one((v) => JSON.stringify(v.colour)) ? lead.colour : null,
        frames: t.length,
        intra: videos.every((v) => v.intra),
        webCodec: videos.find((v) => v.webCodec !== null)?.webCodec ?? null,
      },
    ],
    audio: a.channels
      ? [
          {
            codec: 'pcm',
            channels: a.channels,
            sampleRate: a.sampleRate,
            bitDepth: Math.min(24, sampleDepth),
            samples,
            layout: null,
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

/**
 * One picture in the making of a frame: what clip, from which record frame it counts, how much of it is laid over what
 * is below.
 */
interface Layer {
  readonly clip: Clip
  readonly link: ClipLink | null
  readonly from: Frames
  readonly weight: ((frame: Frames) => readonly [number, number]) | null
}

/** Video events by track, bottom to top, each sorted. */
function layersOf(t: Timeline): number[][] {
  const tracks = t.tracks.filter((x) => x.kind === 'video').map((x) => x.name)
  const lists = tracks.map((): number[] => [])
  t.events.forEach((e, i) => {
    const level = e.kind === 'video' ? tracks.indexOf(e.track) : -1
    if (level >= 0) lists[level]!.push(i)
  })
  for (const l of lists) l.sort((a, b) => t.events[a]!.record.in - t.events[b]!.record.in)
  return lists
}

/**
 * The layers of a frame, bottom first; an empty list is black. Dissolve weights are those at the middle of each frame.
 */
function chainAt(a: Assembly, levels: readonly number[][], frame: Frames): Layer[] {
  const { events } = a.timeline
  const chain: Layer[] = []
  const own = (i: number, weight: Layer['weight']): Layer => ({
    clip: events[i]!,
    link: a.links[i]!.clip,
    from: events[i]!.record.in,
    weight,
  })
  for (let level = levels.length - 1; level >= 0; level--) {
    const list = levels[level]!
    const at = lastWhere(list.length, (i) => events[list[i]!]!.record.in <= frame)
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
      ? { clip: e.transition.outgoing, link: a.links[index!]!.outgoing, from: e.record.in, weight: null }
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
    if (!v || (['width', 'height', 'chroma', 'bitDepth'] as const).some((k) => v[k] !== a.raster[k])) return null
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
 * nearest frame, the topmost layer seen. Sources in another raster are fitted with bars; frames a source does not have
 * are black.
 */
export function assemblePictures(a: Assembly, open: (source: number) => OpenedPictures | null): PictureSource {
  const { timeline: t, raster } = a
  const levels = layersOf(t)
  const black = blackPicture(raster.width, raster.height, raster.chroma, raster.bitDepth)
  const fitted = (p: Picture | null): Picture => {
    if (!p) return black
    const depth = toDepth(p, raster.bitDepth)
    const chroma = raster.chroma === '4:2:2' ? toChroma422(depth) : toChroma420(depth)
    return p.width === raster.width && p.height === raster.height
      ? chroma
      : fitPicture(chroma, raster.width, raster.height, 'letterbox', raster.pixelAspect)
  }
  const stream = (l: Layer, range: FrameRange): AsyncGenerator<Picture | null> | null => {
    const source = l.link && l.clip.source ? open(l.link.source) : null
    if (!source) return null
    const wanted: Frames[] = []
    for (let f = range.in; f < range.out; f++) wanted.push(frameOf(l, source.info, f))
    return follow(source.pictures, wanted)
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
              const next = streams[i] ? await streams[i]!.next() : null
              const own = fitted(next && !next.done ? next.value : null)
              const weight = chain[i]!.weight?.(frame)
              picture = weight ? mixPictures(picture, own, weight[0], weight[1]) : own
            }
            yield { frame, picture }
          }
        } finally {
          for (const s of streams) await s?.return(undefined)
        }
      }
    },
  }
}

/**
 * The sound of an assembled timeline: every sound event on its channels, with its level, at its speed by the nearest
 * sample; dissolves are straight crossfades; what nothing covers is silent.
 */
export function assembleSound(a: Assembly, open: (source: number) => SoundSource | null): SoundSource | null {
  const { timeline: t, sampleRate } = a
  if (a.channels === 0) return null
  const at = (frame: Frames) => sampleAtFrame(frame, t.rate, sampleRate)
  interface Part {
    readonly clip: Clip
    readonly link: ClipLink
    readonly route: readonly [number, number][]
    readonly gain: number
    readonly base: Samples
    readonly from: Samples
    readonly to: Samples
    readonly rise: readonly [Samples, Samples] | null
    readonly fall: readonly [Samples, Samples] | null
  }
  const parts: Part[] = []
  t.events.forEach((e, i) => {
    if (e.kind !== 'audio') return
    const add = (
      event: TimelineEvent,
      clip: Clip,
      link: ClipLink | null,
      base: Frames,
      from: Frames,
      to: Frames,
      rise: boolean,
      fall: boolean,
    ) => {
      if (!link || !clip.source || clip.speed.num === 0) return
      const sound = open(link.source)
      if (!sound || sound.sampleRate !== sampleRate) return
      const ramp = [at(e.record.in), at(e.record.in + (e.transition?.frames ?? 0))] as const
      parts.push({
        clip,
        link,
        route: soundRoute(t, event, sound.channels),
        gain: 10 ** ((event.gain ?? 0) / 20),
        base: at(base),
        from: at(from),
        to: at(to),
        rise: rise ? ramp : null,
        fall: fall ? ramp : null,
      })
    }
    add(e, e, a.links[i]!.clip, e.record.in, e.record.in, e.record.out, e.transition !== null, false)
    if (!e.transition) return
    const end = Math.min(e.record.out, e.record.in + e.transition.frames)
    if (e.transition.outgoing)
      add(
        { ...e, gain: e.gain ?? 0 },
        e.transition.outgoing,
        a.links[i]!.outgoing,
        e.record.in,
        e.record.in,
        end,
        false,
        true,
      )
    else {
      const k = t.events.findIndex((x) => x.kind === 'audio' && x.track === e.track && x.record.out === e.record.in)
      if (k >= 0)
        add(t.events[k]!, t.events[k]!, a.links[k]!.clip, t.events[k]!.record.in, e.record.in, end, false, true)
    }
  })
  return {
    channels: a.channels,
    sampleRate,
    samples: at(t.length),
    async read(from, count) {
      const out = Array.from({ length: a.channels }, () => new Float32Array(count))
      for (const p of parts) {
        const first = Math.max(from, p.from)
        const last = Math.min(from + count, p.to)
        if (last <= first) continue
        const { source, speed } = p.clip as { source: NonNullable<Clip['source']>; speed: Clip['speed'] }
        const start =
          speed.num < 0
            ? sampleAtFrame(source.out - p.link.offset, source.rate, sampleRate) - 1
            : sampleAtFrame(source.in - p.link.offset, source.rate, sampleRate)
        const place = (n: Samples) =>
          start + Math.sign(speed.num) * mulDivFloor(n - p.base, Math.abs(speed.num), speed.den)
        const [x, y] = [place(first), place(last - 1)]
        const low = Math.min(x, y)
        const block = await open(p.link.source)!.read(low, Math.max(x, y) - low + 1)
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
      return out
    },
  }
}

/** What is not as it should be within a range: links in trouble, and wipes, which are made as dissolves. */
export function assemblyProblems(t: Timeline, sources: readonly Source[], range: FrameRange): Problem[] {
  const out = sources
    .filter((s) => s.problem && s.state !== 'ambiguous' && s.events.some((i) => overlaps(t.events[i]!.record, range)))
    .map((s) => s.problem!)
  const wipe = t.events.find((e) => e.transition?.kind === 'wipe' && overlaps(e.record, range))
  if (wipe)
    out.push({
      code: 'assembly.wipe',
      message: 'Wipes are made as dissolves of the same length.',
      where: formatTimecode(t.start + wipe.record.in, t),
      fix: 'Deliver that stretch as a file of its own where the wipe matters.',
    })
  return out
}

/** A stretch of one source that is copied untouched. */
export interface CopyPart {
  readonly source: number
  readonly range: FrameRange
}

/**
 * The stretches of sources a range can be copied from untouched, one after the other; else why not. Several must stand
 * alone frame by frame and be of one kind.
 */
export function copySource(
  a: Assembly,
  range: FrameRange,
  infos: readonly (MediaInfo | null)[],
): { readonly parts: readonly CopyPart[] } | { readonly why: string } {
  const t = a.timeline
  const events = t.events.map((e, i) => ({ e, link: a.links[i]!.clip })).filter((x) => overlaps(x.e.record, range))
  const pictures = events.filter((x) => x.e.kind === 'video').sort((x, y) => x.e.record.in - y.e.record.in)
  const sounds = events.filter((x) => x.e.kind === 'audio' && x.e.source)
  if (pictures.length === 0) return { why: 'it has no pictures' }
  const parts: CopyPart[] = []
  let at = range.in
  for (const { e, link } of pictures) {
    if (e.record.in < at && parts.length > 0) return { why: 'there are layers in it' }
    if (e.record.in > at) return { why: 'there are gaps in it' }
    at = e.record.out
    const within = { in: Math.max(range.in, e.record.in), out: Math.min(range.out, e.record.out) }
    const part = copyPart(a, e, link, within, sounds, infos)
    if ('why' in part) return part
    parts.push(part)
  }
  if (at < range.out) return { why: 'there are gaps in it' }
  const used = parts.map((p) => infos[p.source]!)
  const alike = (of: (i: MediaInfo) => unknown) => new Set(used.map((i) => JSON.stringify(of(i)))).size === 1
  if (parts.length > 1) {
    if (!used.every((i) => i.video[0]!.intra))
      return { why: `its pictures come from ${parts.length} events, and frames lean on others` }
    if (!alike(({ video: [v] }) => [v!.codec, v!.chroma, v!.bitDepth, v!.pixelAspect, v!.scan, v!.colour]))
      return { why: 'its sources are of different kinds' }
    if (
      !used.every((i) => i.audio.every((x) => x.codec === 'pcm')) ||
      !alike((i) => i.audio.map((x) => [x.channels, x.sampleRate, x.bitDepth]))
    )
      return { why: 'the sound of its sources cannot be joined untouched' }
  }
  return { parts }
}

/** One event of a range as a stretch to be copied: pictures and all its sound from the same place of one file. */
function copyPart(
  a: Assembly,
  e: TimelineEvent,
  link: ClipLink | null,
  range: FrameRange,
  sounds: readonly { readonly e: TimelineEvent; readonly link: ClipLink | null }[],
  infos: readonly (MediaInfo | null)[],
): CopyPart | { readonly why: string } {
  const t = a.timeline
  if (!e.source) return { why: 'there is black in it' }
  if (!link) return { why: 'its media is missing' }
  if (e.transition && e.record.in + e.transition.frames > range.in) return { why: 'there is a transition in it' }
  if (!isNormal(e.speed)) return { why: 'its speed is changed' }
  const info = infos[link.source]
  const v = info?.video[0]
  if (info && !['mp4', 'mov'].includes(info.container)) return { why: 'its source is no MP4 or MOV file' }
  if (!info || !v || !sameRate(v.rate, t.rate) || !sameRate(e.source.rate, t.rate))
    return { why: 'its source runs at another rate' }
  if (v.width !== a.raster.width || v.height !== a.raster.height) return { why: 'its source has another raster' }
  const first = e.source.in - link.offset + range.in - e.record.in
  if (first < 0 || first + range.out - range.in > v.frames) return { why: 'its source is too short' }
  const all = channelsOf(info)
  const carried = new Set<number>()
  for (const s of sounds) {
    if (!overlaps(s.e.record, range)) continue
    const same =
      s.link &&
      s.link.source === link.source &&
      isNormal(s.e.speed) &&
      !s.e.gain &&
      !s.e.transition &&
      s.e.source!.in - s.link.offset - s.e.record.in === e.source.in - link.offset - e.record.in &&
      s.e.record.in <= range.in &&
      s.e.record.out >= range.out
    if (!same) return { why: 'its sound is not that of its pictures, untouched' }
    for (const [from, to] of soundRoute(t, s.e, all)) {
      if (from !== to) return { why: 'its sound channels are in another order' }
      carried.add(to)
    }
  }
  if (carried.size !== all)
    return {
      why: carried.size ? 'it takes only some of the sound channels' : 'its source has sound, and the timeline none',
    }
  if (info.audio.some((x) => x.samples < sampleAtFrame(first + range.out - range.in, t.rate, x.sampleRate) - 1))
    return { why: 'the sound of its source ends before its pictures' }
  return { source: link.source, range: { in: first, out: first + range.out - range.in } }
}
