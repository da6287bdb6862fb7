import type { FoundCut } from '../analysis/cuts'
import type { LevelFacts } from '../analysis/levels'
import type { SoundFacts } from '../analysis/soundfacts'
import type { SoundTrouble } from '../analysis/soundstretches'
import type { MediaInfo } from '../media/media'
import type { Output } from '../recipe/output'
import { layoutOf } from '../recipe/output'
import { plural } from '../text'
import { rateLabel, rateText, type Frames, type Rate } from '../time/rate'
import type { FrameRange } from '../time/range'
import { formatTimecode, type TimeBase } from '../time/timecode'
import type { MeasureName } from './spec'

export type ReadingValue = string | number | boolean | readonly string[]

/** One value of a measure: for judging, for people, and where it comes from. */
export interface Reading {
  readonly value: ReadingValue
  readonly text: string
  readonly from: string
}

export type Readings = Partial<Record<MeasureName, Reading>>

export interface PictureFacts {
  readonly black: readonly FrameRange[]
  readonly freeze: readonly FrameRange[]
  readonly flashes: readonly FrameRange[]
  readonly levels?: LevelFacts
  /** Of a whole pass only. */
  readonly cuts?: readonly FoundCut[]
}

const db = (v: number, unit: string) => `${v.toFixed(1).replace('-', '−')} ${unit}`

/**
 * Readings of sound: loudness, range, true peak, silent channels, phase. A channel under −60 dBFS throughout is silent.
 */
export function soundReadings(f: SoundFacts, gain: number, from: string): Readings {
  const out: Readings = {}
  if (f.integrated !== null) out.loudness = { value: f.integrated + gain, text: db(f.integrated + gain, 'LUFS'), from }
  else out.loudness = { value: -Infinity, text: 'silence', from }
  if (f.range !== null) out['loudness-range'] = { value: f.range, text: db(f.range, 'LU'), from }
  if (f.truePeak !== null) out['true-peak'] = { value: f.truePeak + gain, text: db(f.truePeak + gain, 'dBTP'), from }
  const silent = f.peaks.flatMap((p, i) => (p === null || p + gain < -60 ? [i + 1] : []))
  out['silent-channel'] = {
    value: silent.length,
    text: silent.length === 0 ? 'none' : silent.length === 1 ? `channel ${silent[0]}` : `channels ${silent.join(', ')}`,
    from,
  }
  if (f.correlation !== null)
    out.phase = { value: f.correlation, text: f.correlation.toFixed(2).replace('-', '−'), from }
  return out
}

/** Where a stretch begins that readings are of. */
type From = TimeBase & { readonly start: Frames }

/** Readings of content: how many black, still and flashing stretches and ones out of level, and where the first is. */
export function contentReadings(f: PictureFacts, base: From, from: string): Readings {
  const say = (list: readonly FrameRange[]): Reading => {
    const first = list[0]
    if (!first) return { value: 0, text: 'none', from }
    const n = first.out - first.in
    return {
      value: list.length,
      text: `${list.length > 1 ? `${list.length} stretches, first: ` : ''}${plural(n, 'frame')} at ${formatTimecode(base.start + first.in, base)}`,
      from,
    }
  }
  return {
    black: say(f.black),
    freeze: say(f.freeze),
    flashes: say(f.flashes),
    ...(f.levels ? { levels: say(f.levels.excursions) } : {}),
  }
}

/** The reading of damage in sound: how many clicks, dropouts and stretches out of phase, and where the first is. */
export function troubleReadings(t: SoundTrouble, base: From, from: string): Readings {
  const kinds = [
    ['click', 'clicks', t.clicks],
    ['dropout', 'dropouts', t.dropouts],
    ['stretch out of phase', 'stretches out of phase', t.phase],
  ] as const
  const all = kinds.flatMap((k) => k[2])
  const first = Math.min(...all.map((r) => r.in))
  const words = kinds.flatMap(([one, more, list]) => (list.length ? [plural(list.length, one, more)] : []))
  return {
    'sound-faults': {
      value: all.length,
      text: all.length ? `${words.join(', ')}, first at ${formatTimecode(base.start + first, base)}` : 'none',
      from,
    },
  }
}

const indexWords = { front: 'front', end: 'end', fragments: 'in fragments' }

interface Described {
  readonly container: string
  readonly indexAt: 'front' | 'end' | 'fragments'
  readonly video: {
    codec: string
    profile: string | null
    width: number
    height: number
    rate: Rate
    scan: string
    chroma: string
    bitDepth: number
    pixelAspect: string
  } | null
  readonly audio: {
    codec: string
    channels: number
    sampleRate: number
    bitDepth: number
    layout: string | null
  } | null
  readonly durationSeconds: number
  readonly start: { label: string; dropFrame: boolean } | null
  readonly durationText: string
}

function describe(d: Described, from: string): Readings {
  const say = (value: ReadingValue, text = String(value)): Reading => ({ value, text, from })
  const out: Readings = {
    container: say(d.container, d.container.toUpperCase()),
    'index-position': say(d.indexAt, indexWords[d.indexAt]),
    duration: say(d.durationSeconds, d.durationText),
  }
  if (d.start) {
    out['start-timecode'] = say(d.start.label)
    out['drop-frame'] = say(d.start.dropFrame, d.start.dropFrame ? 'drop-frame' : 'non-drop')
  }
  const v = d.video
  if (v) {
    Object.assign(out, {
      codec: say(v.codec),
      'bit-depth': say(v.bitDepth, `${v.bitDepth} bit`),
      chroma: say(v.chroma),
      raster: say(`${v.width}x${v.height}`, `${v.width}×${v.height}`),
      'pixel-aspect': say(v.pixelAspect),
      scan: say(v.scan),
      'frame-rate': say(rateText(v.rate), rateLabel(v.rate)),
      ...(v.profile ? { profile: say(v.profile) } : {}),
    } satisfies Readings)
  }
  const a = d.audio
  if (a) {
    const layout = a.layout ?? layoutOf(a.channels)
    Object.assign(out, {
      'sound-codec': say(a.codec),
      'sample-rate': say(a.sampleRate, `${a.sampleRate / 1000} kHz`),
      'sound-depth': say(a.bitDepth, `${a.bitDepth} bit`),
      channels: say(a.channels, `${a.channels}${layout ? ` (${layout})` : ''}`),
    } satisfies Readings)
  } else out.channels = say(0, 'none')
  return out
}

/** The forecast: what the settings will give. */
export function forecastReadings(o: Output, base: TimeBase): Readings {
  const seconds = (o.frames * base.rate.den) / base.rate.num
  const readings = describe(
    {
      container: o.container,
      indexAt: o.indexAt,
      video: o.video,
      audio: o.audio,
      durationSeconds: seconds,
      durationText: formatTimecode(o.frames, base),
      start: { label: o.start.label, dropFrame: o.start.dropFrame },
    },
    'recipe',
  )
  readings.possible =
    o.problems.length === 0
      ? { value: true, text: 'yes', from: 'this machine' }
      : { value: false, text: o.problems.map((p) => p.message).join(' '), from: 'this machine' }
  return readings
}

/**
 * What a file's own headers say: of a source, or of a file as written. `base` labels durations and wave time
 * references.
 */
export function fileReadings(info: MediaInfo, base: TimeBase | null, from: string): Readings {
  const v = info.video[0]
  const a = info.audio[0]
  let start = info.timecode ? { label: info.timecode.start, dropFrame: info.timecode.dropFrame } : null
  if (!start && info.bext && base && a) {
    const frames = Math.round((info.bext.timeReference * base.rate.num) / (a.sampleRate * base.rate.den))
    start = { label: formatTimecode(frames, base), dropFrame: base.dropFrame }
  }
  const timeBase = base ?? (v ? { rate: v.rate, dropFrame: false } : null)
  const frames =
    info.durationFrames ?? (timeBase ? Math.round((info.durationSeconds * timeBase.rate.num) / timeBase.rate.den) : 0)
  return describe(
    {
      container: info.container,
      indexAt: info.indexAt,
      video: v ?? null,
      audio: a
        ? {
            ...a,
            channels: info.audio.reduce((n, t) => n + t.channels, 0),
            layout: info.audio.length === 1 ? a.layout : null,
          }
        : null,
      durationSeconds: info.durationSeconds,
      durationText: timeBase ? formatTimecode(frames, timeBase) : `${info.durationSeconds.toFixed(2)} s`,
      start,
    },
    from,
  )
}
