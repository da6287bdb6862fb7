import type { AudioInfo, Chroma, MediaInfo, Scan } from '../media/media'
import type { Problem } from '../problem'
import { nominalRate, type Frames, type Rate, type Samples } from '../time/rate'
import type { FrameRange } from '../time/range'
import { sampleAtFrame } from '../time/samples'
import { formatTimecode, parseTimecode, type TimeBase } from '../time/timecode'
import { v210Size } from '../codec/v210/v210'
import type { Recipe } from './recipe'

/** What a deliverable's file will be, worked out from recipe and source before anything runs. */
export interface Output {
  readonly container: 'mov' | 'mp4' | 'wav' | 'rf64'
  readonly indexAt: 'front'
  readonly video: {
    readonly codec: string
    readonly profile: string | null
    readonly width: number
    readonly height: number
    readonly rate: Rate
    readonly scan: Scan
    readonly chroma: Chroma
    readonly bitDepth: number
    readonly pixelAspect: string
  } | null
  readonly audio: {
    readonly codec: string
    readonly channels: number
    readonly sampleRate: number
    readonly bitDepth: number
    readonly layout: string | null
  } | null
  readonly frames: Frames
  readonly samples: Samples
  readonly start: { readonly frames: Frames; readonly label: string; readonly dropFrame: boolean }
  /** Bytes, forecast. */
  readonly bytes: number
  /** What keeps it from being made. */
  readonly problems: readonly Problem[]
}

/** What this machine can do, asked once. */
export interface Abilities {
  readonly h264: boolean
  readonly aac: boolean
  readonly decodes: readonly string[]
}

/** Source channels in output order (0-based; −1 is silence). */
export function routeOf(recipe: Pick<Recipe, 'channels'>, sourceChannels: number): number[] {
  if (recipe.channels === 'none') return []
  if (recipe.channels === 'all') return Array.from({ length: sourceChannels }, (_, i) => i)
  return recipe.channels.map((c) => c - 1)
}

/** All sound channels of a file, track after track. */
export function sourceChannels(info: Pick<MediaInfo, 'audio'>): number {
  return info.audio.reduce((n, a) => n + a.channels, 0)
}

/** Layout of an output by its channel count, as EBU R 123 orders them. */
export function layoutOf(channels: number): string | null {
  return { 1: 'C', 2: 'L R', 6: 'L R C LFE Ls Rs' }[channels] ?? null
}

/** H.264 level that a raster and rate need (H.264 table A-1), as level_idc. */
export function avcLevel(width: number, height: number, rate: Rate): number {
  const mbs = Math.ceil(width / 16) * Math.ceil(height / 16)
  const perSecond = (mbs * rate.num) / rate.den
  const table: [number, number, number][] = [
    [30, 1620, 40500],
    [31, 3600, 108000],
    [32, 5120, 216000],
    [40, 8192, 245760],
    [42, 8704, 522240],
    [50, 22080, 589824],
    [51, 36864, 983040],
    [52, 36864, 2073600],
  ]
  return table.find(([, size, speed]) => mbs <= size && perSecond <= speed)?.[0] ?? 62
}

/** Works out the file a recipe gives for a range of a source. */
export function describeOutput(
  recipe: Recipe,
  source: MediaInfo,
  timeline: TimeBase & { start: Frames },
  range: FrameRange,
  abilities: Abilities,
): Output {
  const problems: Problem[] = []
  const v = source.video[0]
  const a: AudioInfo | undefined = source.audio[0]
  const rate = timeline.rate
  const frames = range.out - range.in
  const sampleRate = a?.sampleRate ?? 48000
  const samples = sampleAtFrame(range.out, rate, sampleRate) - sampleAtFrame(range.in, rate, sampleRate)
  const startFrames = recipe.start === 'timeline' ? timeline.start + range.in : parseTimecode(recipe.start, timeline)
  if (startFrames === null)
    problems.push({
      code: 'recipe.start',
      message: `${recipe.start} is not a timecode at this rate.`,
      fix: 'Type another start timecode.',
    })
  const start = {
    frames: startFrames ?? 0,
    label: formatTimecode(startFrames ?? 0, timeline),
    dropFrame: timeline.dropFrame,
  }
  const total = sourceChannels(source)
  const route = routeOf(recipe, total)
  if (route.some((c) => c >= total))
    problems.push({
      code: 'recipe.channel',
      message: `The source has ${total} sound channels; channel ${Math.max(...route) + 1} is asked for.`,
      fix: 'Choose other channels.',
    })
  const seconds = (frames * rate.den) / rate.num
  const width = recipe.width ?? v?.width ?? 0
  const height = recipe.height ?? v?.height ?? 0
  const needsPictures = recipe.kind !== 'sound'
  if (needsPictures && !v)
    problems.push({ code: 'recipe.no-pictures', message: 'The source has no pictures.', fix: 'Use a sound recipe.' })
  if (
    (recipe.kind === 'master' || recipe.kind === 'viewing') &&
    v &&
    v.codec.split('+').some((c) => !abilities.decodes.includes(c))
  ) {
    problems.push({
      code: 'codec.none',
      message: `Pictures of kind “${v.codec}” cannot be decoded on this machine.`,
      fix: 'Use a rewrap, or install the codec package.',
    })
  }
  if (recipe.kind === 'master' && v && v.webCodec !== null && (v.bitDepth > 8 || v.chroma !== '4:2:0')) {
    problems.push({
      code: 'codec.depth',
      message: `The source has ${v.bitDepth} bit ${v.chroma} pictures, which the decoder of this machine gives as 8 bit 4:2:0.`,
      fix: 'Use a rewrap, or accept it with a waiver.',
    })
  }
  if (
    recipe.kind !== 'rewrap' &&
    route.length > 0 &&
    source.audio.some((t) => t.codec !== 'pcm' && !abilities.decodes.includes(t.codec))
  ) {
    problems.push({
      code: 'codec.none',
      message: `Sound of kind “${a!.codec}” cannot be decoded on this machine.`,
      fix: 'Use a rewrap, or install the codec package.',
    })
  }
  const shared = { indexAt: 'front' as const, frames, samples, start, problems }
  const picture = v
    ? { rate, scan: v.scan, pixelAspect: recipe.width === null && recipe.height === null ? v.pixelAspect : '1:1' }
    : null
  switch (recipe.kind) {
    case 'rewrap': {
      const plain = v && (v.codec === 'v210' || v.codec === 'uyvy')
      if (source.container === 'matroska' || source.container === 'webm' || source.container === 'stills')
        problems.push({
          code: 'recipe.container',
          message:
            source.container === 'stills'
              ? 'Stills are not copied into a film untouched.'
              : 'Matroska essence is not rewrapped into MOV or MP4 here.',
          fix: 'Use a master or a viewing copy.',
        })
      if (recipe.container === 'wav')
        problems.push({ code: 'recipe.container', message: 'A rewrap is a MOV or an MP4 file.', fix: 'Choose MOV.' })
      if (recipe.container === 'mp4' && (source.container !== 'mp4' || plain))
        problems.push({
          code: 'recipe.container',
          message: 'This essence can be rewrapped into MOV only.',
          fix: 'Choose MOV as container.',
        })
      return {
        ...shared,
        container: recipe.container === 'mp4' ? 'mp4' : 'mov',
        video: v
          ? {
              codec: v.codec,
              profile: v.profile,
              width: v.width,
              height: v.height,
              rate,
              scan: v.scan,
              chroma: v.chroma,
              bitDepth: v.bitDepth,
              pixelAspect: v.pixelAspect,
            }
          : null,
        audio: a ? { codec: a.codec, channels: total, sampleRate, bitDepth: a.bitDepth, layout: a.layout } : null,
        bytes: Math.ceil((source.size * frames) / Math.max(1, source.durationFrames ?? frames)) + 20_000,
      }
    }
    case 'master':
      return {
        ...shared,
        container: 'mov',
        video: picture && { codec: 'v210', profile: null, width, height, chroma: '4:2:2', bitDepth: 10, ...picture },
        audio:
          route.length && a
            ? { codec: 'pcm', channels: route.length, sampleRate, bitDepth: 24, layout: layoutOf(route.length) }
            : null,
        bytes: v210Size(width, height) * frames + samples * route.length * 3 + 20_000,
      }
    case 'viewing':
      if (!abilities.h264)
        problems.push({
          code: 'codec.none',
          message: 'H.264 cannot be encoded on this machine.',
          fix: 'Install the codec package, or use another recipe.',
        })
      if (route.length && !abilities.aac)
        problems.push({
          code: 'codec.none',
          message: 'AAC cannot be encoded on this machine.',
          fix: 'Install the codec package, or set the sound to none.',
        })
      if (![0, 1, 2, 6].includes(route.length))
        problems.push({
          code: 'recipe.channel',
          message: `A viewing copy has 1, 2 or 6 sound channels, not ${route.length}.`,
          fix: 'Choose other channels.',
        })
      return {
        ...shared,
        container: 'mp4',
        video: picture && {
          codec: 'h264',
          profile: 'High',
          width,
          height,
          chroma: '4:2:0',
          bitDepth: 8,
          ...picture,
          scan: 'progressive',
        },
        audio:
          route.length && a ? { codec: 'aac', channels: route.length, sampleRate, bitDepth: 16, layout: null } : null,
        bytes: Math.ceil(seconds * (recipe.pictureBitrate + (route.length ? recipe.soundBitrate : 0)) * 125) + 20_000,
      }
    case 'sound': {
      if (!a || route.length === 0)
        problems.push({
          code: 'recipe.no-sound',
          message: 'There is no sound to write.',
          fix: 'Choose channels that the source has.',
        })
      const bytes = samples * route.length * (recipe.soundDepth / 8) + 1024
      return {
        ...shared,
        container: bytes > 0xffffffff ? 'rf64' : 'wav',
        video: null,
        audio: a
          ? {
              codec: 'pcm',
              channels: route.length,
              sampleRate,
              bitDepth: recipe.soundDepth,
              layout: layoutOf(route.length),
            }
          : null,
        bytes,
      }
    }
  }
}

/** Frames of one segment: long enough to be worth a task, short enough to lose little. */
export function segmentFrames(kind: Recipe['kind'], rate: Rate): Frames {
  return nominalRate(rate) * (kind === 'master' ? 2 : 4)
}
