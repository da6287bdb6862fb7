import type { TimelineFormat } from './format'
import { fail, type Problem } from '../../problem'
import { framesToSeconds, makeRate, nearestRate, nominalRate, sameRate, type Frames, type Rate } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { canDropFrame } from '../../time/timecode'
import {
  isNormal,
  normalSpeed,
  sourceLength,
  speedOf,
  trimEvent,
  type Clip,
  type SourceRange,
  type Speed,
  type Timeline,
  type TimelineEvent,
  type TimelineMarker,
  type Track,
} from '../model'
import { losses } from './losses'

type Json = Record<string, unknown>
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v)
const list = (v: unknown): unknown[] => (Array.isArray(v) ? v : [])
const text = (v: unknown): string => (typeof v === 'string' ? v : '')
const schemaOf = (v: unknown): string => (isObject(v) ? text(v.OTIO_SCHEMA).replace(/\.\d+$/, '') : '')
const deepest = 40
const most = 2_000_000

/** Our own keys in the metadata of objects we write. */
const ours = 'velvet_crane'

/** An exact rate of the floating-point one in a file. */
function exactRate(value: unknown): Rate | null {
  const v = Number(value)
  if (!Number.isFinite(v) || v <= 0 || v > 100_000) return null
  if (Math.abs(v - Math.round(v)) < 1e-6) return makeRate(Math.round(v))
  return nearestRate(v) ?? makeRate(Math.round(v * 1000), 1000)
}

interface Time {
  readonly value: number
  readonly rate: Rate
}
function timeOf(v: unknown): Time | null {
  if (!isObject(v)) return null
  const rate = exactRate(v.rate)
  const value = Number(v.value)
  return rate && Number.isFinite(value) && Math.abs(value) < 1e12 ? { value, rate } : null
}

/** Frames at a rate, to the nearest. */
function at(t: Time | null, rate: Rate): Frames {
  if (!t) return 0
  if (sameRate(t.rate, rate)) return Math.round(t.value)
  return Number.isInteger(t.value) && Number.isSafeInteger(t.value * t.rate.den * rate.num)
    ? mulDivRound(t.value, t.rate.den * rate.num, t.rate.num * rate.den)
    : Math.round(((t.value * t.rate.den) / t.rate.num) * (rate.num / rate.den))
}

function rangeOf(v: unknown): { start: Time; duration: Time } | null {
  if (!isObject(v)) return null
  const start = timeOf(v.start_time)
  const duration = timeOf(v.duration)
  return start && duration && duration.value >= 0 ? { start, duration } : null
}

/** An item laid out: its events from 0, its length, and where its own clock stood at 0. */
interface Laid {
  readonly events: LaidEvent[]
  readonly markers: TimelineMarker[]
  readonly length: Frames
}
interface LaidEvent extends Omit<TimelineEvent, 'track'> {
  readonly level: readonly number[]
}

class OtioReader {
  readonly problems: Problem[] = []
  private nodes = 0

  constructor(
    readonly rate: Rate,
    private readonly fileName: string,
  ) {}

  private complain(code: string, message: string, where: string, fix: string): void {
    if (this.problems.length < 200)
      this.problems.push({ code, message, where: `${this.fileName}, ${where || 'top'}`, fix })
  }

  private count(depth: number): void {
    if (depth > deepest)
      fail(
        'otio.depth',
        `Timelines lie inside each other more than ${deepest} deep.`,
        this.fileName,
        'Flatten the timeline before it is written.',
      )
    if (++this.nodes > most)
      fail(
        'otio.size',
        'The file holds more items than makes sense.',
        this.fileName,
        'Split the timeline and bring in its parts.',
      )
  }

  /** Markers of an item whose first visible moment on its own clock is `zero` and stands at 0. */
  private markers(item: Json, zero: Time | null, speed: Speed, length: Frames): TimelineMarker[] {
    const out: TimelineMarker[] = []
    for (const m of list(item.markers)) {
      const range = isObject(m) ? rangeOf(m.marked_range) : null
      if (!isObject(m) || !range) continue
      const own = isObject(m.metadata) && isObject(m.metadata[ours]) ? text(m.metadata[ours].kind) : ''
      const offset = at(range.start, this.rate) - at(zero, this.rate)
      const place = speed.num > 0 && !isNormal(speed) ? mulDivRound(offset, speed.den, speed.num) : offset
      if (place < 0 || place > length) continue
      out.push({
        name: text(m.name) || text(m.comment),
        kind: own === 'chapter' || own === 'part' ? own : 'marker',
        at: place,
        frames: at(range.duration, this.rate),
      })
    }
    return out
  }

  private speed(item: Json, where: string): Speed {
    let speed = normalSpeed
    for (const e of list(item.effects)) {
      const schema = schemaOf(e)
      if (schema === 'FreezeFrame') speed = { num: 0, den: 1 }
      else if (schema === 'LinearTimeWarp') {
        const one = speedOf(Number((e as Json).time_scalar ?? 1))
        speed = { num: speed.num * one.num, den: speed.den * one.den }
      } else if (isObject(e))
        this.complain(
          'otio.effect',
          `The effect “${text(e.effect_name) || text(e.name) || schema}” is kept but not made.`,
          where,
          'Flatten it in the edit where the pictures need it.',
        )
    }
    return speed
  }

  private clip(
    item: Json,
    where: string,
  ): { clip: Clip & { channels?: number[]; gain?: number }; length: Frames; zero: Time | null; speed: Speed } {
    const key = text(item.active_media_reference_key) || 'DEFAULT_MEDIA'
    const reference = isObject(item.media_references) ? item.media_references[key] : item.media_reference
    const media: Json = isObject(reference) ? reference : {}
    const available = rangeOf(media.available_range)
    const used = rangeOf(item.source_range) ?? available
    const speed = this.speed(item, where)
    const name = text(item.name)
    if (!used) {
      this.complain(
        'otio.no-range',
        `The clip “${name}” says neither which part of its media it takes nor how long that is; it is left out.`,
        where,
        'Write the timeline again with source ranges.',
      )
      return {
        clip: { name, reel: '', file: null, source: null, speed: normalSpeed },
        length: 0,
        zero: null,
        speed: normalSpeed,
      }
    }
    const meta: Json = {
      ...(isObject(media.metadata) ? media.metadata : {}),
      ...(isObject(item.metadata) ? item.metadata : {}),
    }
    const own = isObject(meta[ours]) ? meta[ours] : {}
    const rate = (available ?? used).start.rate
    const first = at(used.start, rate)
    const length = at(used.duration, this.rate)
    const count = sameRate(rate, this.rate) ? length : at(used.duration, rate)
    const took = sourceLength(count, speed)
    const url = text(media.target_url)
    const sequence = schemaOf(media) === 'ImageSequenceReference'
    const file = url
      ? decode(url)
      : sequence
        ? decode(`${text(media.target_url_base)}${text(media.name_prefix)}${text(media.name_suffix)}`)
        : null
    const generated = schemaOf(media) === 'GeneratorReference' && /black|silence/i.test(text(media.generator_kind))
    const source: SourceRange = { in: first, out: first + Math.max(1, took), rate }
    const channels = list(own.channels).filter((c): c is number => Number.isInteger(c) && Number(c) >= 0)
    return {
      clip: {
        name,
        reel: text(own.reel) || text(meta.reel) || text(meta.reel_name) || (file ? '' : text(media.name)),
        file,
        speed,
        source: generated ? null : source,
        ...(available
          ? {
              available: {
                in: at(available.start, rate),
                out: at(available.start, rate) + at(available.duration, rate),
                rate,
              },
            }
          : {}),
        ...(channels.length ? { channels } : {}),
        ...(typeof own.gain === 'number' && Number.isFinite(own.gain) ? { gain: own.gain } : {}),
      },
      length,
      zero: used.start,
      speed,
    }
  }

  /** Lays out any item from 0, as it stands in a track of a kind. */
  item(item: unknown, kind: 'video' | 'audio', depth: number, where: string): Laid {
    this.count(depth)
    const none: Laid = { events: [], markers: [], length: 0 }
    if (!isObject(item)) return none
    const schema = schemaOf(item)
    const name = text(item.name)
    const here = `${where}/${name || schema}`
    switch (schema) {
      case 'Clip': {
        const { clip, length, zero, speed } = this.clip(item, here)
        if (length <= 0) return none
        const shown =
          item.enabled === false
            ? []
            : [{ ...clip, level: [1], kind, record: { in: 0, out: length }, transition: null }]
        return { events: shown, markers: this.markers(item, zero, speed, length), length }
      }
      case 'Gap': {
        const range = rangeOf(item.source_range)
        const length = range ? at(range.duration, this.rate) : 0
        return { events: [], markers: this.markers(item, range?.start ?? null, normalSpeed, length), length }
      }
      case 'Stack':
      case 'Track':
      case 'Timeline':
        return this.nested(item, schema, kind, depth, here)
      case 'Transition':
        return none
    }
    const range = rangeOf(item.source_range)
    this.complain(
      'otio.unknown',
      `“${text(item.OTIO_SCHEMA)}” is not known here; it is kept and written back, and its place stays empty.`,
      here,
      'Replace it in the edit where it carries pictures or sound.',
    )
    return { ...none, length: range ? at(range.duration, this.rate) : 0 }
  }

  private nested(item: Json, schema: string, kind: 'video' | 'audio', depth: number, here: string): Laid {
    const inner =
      schema === 'Timeline'
        ? this.stack(item.tracks, kind, depth + 1, here)
        : schema === 'Stack'
          ? this.stack(item, kind, depth + 1, here)
          : this.track(item, depth + 1, here, kind)
    const outer = schema === 'Timeline' && isObject(item.tracks) ? item.tracks : item
    const range = rangeOf(outer.source_range)
    const speed = this.speed(item, here)
    if (!isNormal(speed))
      this.complain(
        'otio.nested-speed',
        'A speed change over a whole nested timeline is not made; it plays at normal speed.',
        here,
        'Give the speed to its clips instead.',
      )
    // the clock inside a composition begins at 0, unless a nested timeline says otherwise
    const zero = range ? at(range.start, this.rate) : 0
    const length = range ? at(range.duration, this.rate) : inner.length
    const events = inner.events.map((e) => moved(e, -zero, { in: 0, out: length })).filter((e) => e !== null)
    const markers = inner.markers.map((m) => ({ ...m, at: m.at - zero })).filter((m) => m.at >= 0 && m.at <= length)
    return { events, markers, length }
  }

  /** The items of a track one after the other; transitions lie over the cut between two of them. */
  track(track: unknown, depth: number, where: string, given?: 'video' | 'audio'): Laid {
    this.count(depth)
    if (!isObject(track)) return { events: [], markers: [], length: 0 }
    const kind = text(track.kind).toLowerCase() === 'audio' ? 'audio' : text(track.kind) ? 'video' : (given ?? 'video')
    const children = list(track.children)
    const events: LaidEvent[] = []
    const markers: TimelineMarker[] = []
    let position = 0
    let pending: { before: Frames; after: Frames; wipe: boolean } | null = null
    let last: LaidEvent[] = []
    children.forEach((child, i) => {
      if (schemaOf(child) === 'Transition') {
        const c = child as Json
        pending = {
          before: Math.max(0, at(timeOf(c.in_offset), this.rate)),
          after: Math.max(0, at(timeOf(c.out_offset), this.rate)),
          wipe: /wipe/i.test(text(c.transition_type)),
        }
        // a fade to nothing at the end of a track
        if (i === children.length - 1 || schemaOf(children[i + 1]) === 'Gap') {
          const length = Math.min(pending.before, last[0] ? last[0].record.out - last[0].record.in : 0)
          if (length > 0)
            events.push({
              ...black(kind, { in: position - length, out: position }),
              transition: { kind: pending.wipe ? 'wipe' : 'dissolve', frames: length, before: length },
            })
          shorten(events, last, position - length)
          pending = null
        }
        return
      }
      const laid = this.item(child, kind, depth + 1, `${where}/${text(track.name) || kind}`)
      const shifted = laid.events.map((e) => ({
        ...e,
        record: { in: e.record.in + position, out: e.record.out + position },
      }))
      if (pending && laid.length > 0) {
        const first = shifted.find((e) => e.record.in === position)
        const frames = Math.min(pending.before + pending.after, laid.length + pending.before)
        const before = Math.min(pending.before, position)
        if (first && frames > 0) {
          const k = shifted.indexOf(first)
          shifted[k] = {
            ...early(first, before),
            transition: { kind: pending.wipe ? 'wipe' : 'dissolve', frames, ...(before ? { before } : {}) },
          }
          shorten(events, last, position - before)
        }
      }
      pending = null
      events.push(...shifted)
      markers.push(...laid.markers.map((m) => ({ ...m, at: m.at + position })))
      const schema = schemaOf(child)
      if ((schema === 'Timeline' || schema === 'Stack') && isObject(child) && laid.length > 0 && text(child.name))
        markers.push({ name: text(child.name), kind: 'part', at: position, frames: laid.length })
      last = shifted.filter((e) => e.record.out === position + laid.length)
      position += laid.length
    })
    markers.push(...this.markers(track, rangeOf(track.source_range)?.start ?? null, normalSpeed, position))
    return { events, markers, length: position }
  }

  /** Tracks over each other; levels tell which lies above. */
  stack(stack: unknown, kind: 'video' | 'audio', depth: number, where: string): Laid {
    this.count(depth)
    if (!isObject(stack)) return { events: [], markers: [], length: 0 }
    const events: LaidEvent[] = []
    const markers: TimelineMarker[] = []
    let length = 0
    const seen = { video: 0, audio: 0 }
    for (const child of list(stack.children)) {
      const own =
        isObject(child) && text(child.kind).toLowerCase() === 'audio'
          ? 'audio'
          : schemaOf(child) === 'Track'
            ? 'video'
            : kind
      const number = ++seen[own]
      const off = isObject(child) && child.enabled === false
      const laid =
        schemaOf(child) === 'Track'
          ? this.nested(child as Json, 'Track', own, depth, where)
          : this.item(child, own, depth + 1, where)
      if (!off)
        events.push(
          ...laid.events.map((e) => ({ ...e, level: e.kind === own ? [number, ...e.level.slice(0)] : e.level })),
        )
      markers.push(...laid.markers)
      length = Math.max(length, laid.length)
    }
    markers.push(...this.markers(stack, rangeOf(stack.source_range)?.start ?? null, normalSpeed, length))
    return { events, markers, length }
  }
}

function black(kind: 'video' | 'audio', record: { in: Frames; out: Frames }): LaidEvent {
  return {
    level: [1],
    kind,
    name: '',
    reel: '',
    file: null,
    source: null,
    speed: normalSpeed,
    record,
    transition: null,
  }
}

/** An event begun earlier, from its head handle. */
function early(e: LaidEvent, frames: Frames): LaidEvent {
  const record = { in: e.record.in - frames, out: e.record.out }
  if (!e.source) return { ...e, record }
  const more = Math.floor((frames * Math.abs(e.speed.num)) / e.speed.den)
  return {
    ...e,
    record,
    source: e.speed.num < 0 ? { ...e.source, out: e.source.out + more } : { ...e.source, in: e.source.in - more },
  }
}

/** Ends events earlier, where a transition begins before the cut. */
function shorten(events: LaidEvent[], which: readonly LaidEvent[], to: Frames): void {
  for (const e of which) {
    const k = events.indexOf(e)
    const cut = trimEvent({ ...e, track: '' }, { in: e.record.in, out: to })
    if (k >= 0 && cut) events[k] = { ...cut, level: e.level }
  }
}

function moved(e: LaidEvent, by: Frames, within: { in: Frames; out: Frames }): LaidEvent | null {
  const trimmed = trimEvent({ ...e, track: '', record: { in: e.record.in + by, out: e.record.out + by } }, within)
  return trimmed && { ...trimmed, level: e.level }
}

function decode(url: string): string {
  const path = url.replace(/^file:\/\/(localhost)?/i, '')
  try {
    return decodeURIComponent(path)
  } catch {
    return path
  }
}

/** The rate most clips count at, for a timeline that does not say. */
function rateIn(value: unknown, depth = 0): Rate | null {
  if (depth > deepest || typeof value !== 'object' || value === null) return null
  if (isObject(value) && schemaOf(value) === 'Clip') {
    const range =
      rangeOf(value.source_range) ??
      rangeOf(isObject(value.media_reference) ? value.media_reference.available_range : null)
    if (range) return range.duration.rate
  }
  for (const v of Array.isArray(value) ? value : [(value as Json).tracks, (value as Json).children]) {
    const r = v === undefined || v === null ? null : rateIn(v, depth + 1)
    if (r) return r
  }
  return null
}

/**
 * Whether clips of two levels share a track: dotted numbers, such as V2.1 for the first layer of what lies nested in
 * V2.
 */
function trackName(kind: 'video' | 'audio', level: readonly number[]): string {
  const significant = [...level]
  while (significant.length > 1 && significant.at(-1) === 1) significant.pop()
  const number = significant.join('.')
  return kind === 'video' ? `V${number === '1' ? '' : number}` : `A${number}`
}

/**
 * Reads OpenTimelineIO JSON: nested stacks and timelines are laid out flat, the topmost last; gaps, transitions, linear
 * time warps, markers of any level. Unknown schemas and metadata stay in `original` and are written back as they were.
 */
export function readOtio(
  source: string,
  fileName: string,
): { timeline: Timeline; problems: Problem[]; original: unknown } {
  let document: unknown
  try {
    document = JSON.parse(source.replace(/^\uFEFF/, ''))
  } catch (e) {
    const place = /position (\d+)/.exec((e as Error).message)?.[1]
    fail(
      'otio.json',
      'This is not JSON from beginning to end.',
      place ? `${fileName}, byte ${place}` : fileName,
      'The file is damaged or was not written completely; write it again.',
    )
  }
  let top = document
  if (schemaOf(top) === 'SerializableCollection')
    top = list((top as Json).children).find((c) => schemaOf(c) === 'Timeline')
  const schema = schemaOf(top)
  if (!isObject(top) || !['Timeline', 'Stack', 'Track'].includes(schema))
    fail('otio.no-timeline', 'There is no timeline in this file.', fileName, 'Write the timeline, not a single clip.')
  const origin = timeOf(top.global_start_time)
  const rate = origin && origin.rate.num / origin.rate.den < 1000 ? origin.rate : (rateIn(top) ?? makeRate(25))
  const reader = new OtioReader(rate, fileName)
  const laid = reader.item(top, 'video', 0, '')
  // our own nesting adds a level at the top that says nothing
  const names = new Map<string, { kind: 'video' | 'audio'; level: readonly number[] }>()
  const events = laid.events.map(({ level, ...e }): TimelineEvent => {
    const track = trackName(e.kind, level)
    names.set(track, { kind: e.kind, level })
    return { ...e, track }
  })
  const compare = (a: readonly number[], b: readonly number[]) => {
    for (let i = 0; i < Math.max(a.length, b.length); i++)
      if ((a[i] ?? 0) !== (b[i] ?? 0)) return (a[i] ?? 0) - (b[i] ?? 0)
    return 0
  }
  const tracks = [...names]
    .sort(([, a], [, b]) => (a.kind === b.kind ? compare(a.level, b.level) : a.kind === 'video' ? -1 : 1))
    .map(([name, { kind }]): Track => ({ name, kind }))
  const own = isObject(top.metadata) && isObject(top.metadata[ours]) ? top.metadata[ours] : {}
  // the format does not tell how it labels: a start on a full hour without dropping is taken as said, else labels are
  // dropped
  const dropFrame =
    canDropFrame(rate) &&
    (typeof own.drop_frame === 'boolean'
      ? own.drop_frame
      : at(origin, rate) % (nominalRate(rate) * 3600) !== 0 || at(origin, rate) === 0)
  if (events.length === 0 && reader.problems.length === 0)
    reader.problems.push({
      code: 'otio.empty',
      message: 'There are no clips on this timeline.',
      where: fileName,
      fix: 'Check that the right timeline was written.',
    })
  const markers = laid.markers
    .filter((m, i) => laid.markers.findIndex((x) => x.at === m.at && x.name === m.name && x.kind === m.kind) === i)
    .sort((a, b) => a.at - b.at)
  return {
    timeline: {
      name: text(top.name) || fileName.replace(/\.[^.]*$/, ''),
      rate,
      dropFrame,
      start: at(origin, rate),
      length: laid.length,
      tracks,
      events,
      markers,
    },
    problems: reader.problems,
    original: document,
  }
}

/** Writes OpenTimelineIO JSON; a document it was read from is written back as it was. */
export function writeOtio(t: Timeline, original?: unknown): { text: string; problems: Problem[] } {
  if (original !== undefined) return { text: `${JSON.stringify(original, null, 2)}\n`, problems: [] }
  const { problems, lose } = losses(t.name, 'Check these transitions.')
  const named = t.events.filter((e) => e.transition?.outgoing).length
  lose(named, 'otio.outgoing', 'The outgoing side of # transitions is not written where it is not the clip before.')
  const value = (r: Rate) => r.num / r.den
  const time = (n: Frames, rate: Rate = t.rate) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: value(rate), value: n })
  const range = (from: Frames, length: Frames, rate: Rate = t.rate) => ({
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: time(from, rate),
    duration: time(length, rate),
  })
  const marker = (m: TimelineMarker) => ({
    OTIO_SCHEMA: 'Marker.2',
    name: m.name,
    color: 'CYAN',
    metadata: { [ours]: { kind: m.kind } },
    marked_range: range(m.at, m.frames),
  })
  const clip = (e: TimelineEvent, length: Frames) => {
    const own = {
      ...(e.reel ? { reel: e.reel } : {}),
      ...(e.channels ? { channels: e.channels } : {}),
      ...(e.gain ? { gain: e.gain } : {}),
    }
    const s = e.source!
    return {
      OTIO_SCHEMA: 'Clip.2',
      name: e.name,
      enabled: true,
      metadata: Object.keys(own).length ? { [ours]: own } : {},
      markers: [],
      source_range: range(
        s.in,
        sameRate(s.rate, t.rate) ? length : Math.round(framesToSeconds(length, t.rate) * value(s.rate)),
        s.rate,
      ),
      effects: isNormal(e.speed)
        ? []
        : e.speed.num === 0
          ? [{ OTIO_SCHEMA: 'FreezeFrame.1', name: '', effect_name: 'FreezeFrame', time_scalar: 0, metadata: {} }]
          : [
              {
                OTIO_SCHEMA: 'LinearTimeWarp.1',
                name: '',
                effect_name: 'LinearTimeWarp',
                time_scalar: e.speed.num / e.speed.den,
                metadata: {},
              },
            ],
      active_media_reference_key: 'DEFAULT_MEDIA',
      media_references: {
        DEFAULT_MEDIA: e.file
          ? {
              OTIO_SCHEMA: 'ExternalReference.1',
              name: '',
              target_url: e.file,
              metadata: {},
              available_range: e.available
                ? range(e.available.in, e.available.out - e.available.in, e.available.rate)
                : null,
            }
          : { OTIO_SCHEMA: 'MissingReference.1', name: '', metadata: {}, available_range: null },
      },
    }
  }
  const children = t.tracks.map((track) => {
    const events = t.events
      .filter((e) => e.track === track.name && e.kind === track.kind)
      .sort((a, b) => a.record.in - b.record.in)
    const items: unknown[] = []
    let position = 0
    events.forEach((e, i) => {
      // a transition that begins before the cut is written around it again
      const cut = (x: TimelineEvent | undefined) => (x ? x.record.in + (x.transition?.before ?? 0) : Infinity)
      const from = cut(e)
      const next = events[i + 1]
      const to = next && next.record.in === e.record.out ? cut(next) : e.record.out
      if (from > position)
        items.push({
          OTIO_SCHEMA: 'Gap.1',
          name: '',
          metadata: {},
          effects: [],
          markers: [],
          source_range: range(0, from - position),
        })
      if (e.transition) {
        const before = e.transition.before ?? 0
        items.push({
          OTIO_SCHEMA: 'Transition.1',
          name: '',
          transition_type: e.transition.kind === 'wipe' ? 'Custom_Transition_Wipe' : 'SMPTE_Dissolve',
          in_offset: time(before),
          out_offset: time(e.transition.frames - before),
          metadata: {},
        })
      }
      const skipped = from - e.record.in
      const part =
        skipped > 0 && e.source ? (trimEvent({ ...e, transition: null }, { in: from, out: e.record.out }) ?? e) : e
      if (to > from)
        items.push(
          e.source
            ? clip(part, to - from)
            : {
                OTIO_SCHEMA: 'Gap.1',
                name: e.name,
                metadata: {},
                effects: [],
                markers: [],
                source_range: range(0, to - from),
              },
        )
      position = Math.max(position, to)
    })
    return {
      OTIO_SCHEMA: 'Track.1',
      name: track.name,
      kind: track.kind === 'audio' ? 'Audio' : 'Video',
      metadata: {},
      effects: [],
      markers: [],
      source_range: null,
      children: items,
    }
  })
  const document = {
    OTIO_SCHEMA: 'Timeline.1',
    name: t.name,
    metadata: { [ours]: { drop_frame: t.dropFrame } },
    global_start_time: time(t.start),
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      name: 'tracks',
      metadata: {},
      effects: [],
      markers: t.markers.map(marker),
      source_range: null,
      children,
    },
  }
  return { text: `${JSON.stringify(document, null, 2)}\n`, problems }
}

/** OpenTimelineIO JSON. */
export const otio: TimelineFormat = {
  name: 'otio',
  label: 'OpenTimelineIO JSON',
  extensions: ['.otio', '.json'],
  holds: 'timeline',
  recognise: (head, text) => head.startsWith('{') && /"OTIO_SCHEMA"/.test(text),
  read: (text, fileName) => readOtio(text, fileName),
  write: writeOtio,
}
