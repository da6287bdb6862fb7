import { fail, type Problem } from '../../../problem'
import { sameRate, type Frames, type Rate } from '../../../time/rate'
import { mulDivRound } from '../../../time/samples'
import {
  isNormal,
  normalSpeed,
  sourceLength,
  speedOf,
  trimEvent,
  type Clip,
  type Speed,
  type TimelineEvent,
  type TimelineMarker,
} from '../../model'
import { at, deepest, isObject, list, ours, rangeOf, schemaOf, text, timeOf, type Json, type Time } from './schema'

const most = 2_000_000

/** An item laid out: its events from 0, its length, and where its own clock stood at 0. */
interface Laid {
  readonly events: LaidEvent[]
  readonly markers: TimelineMarker[]
  readonly length: Frames
}
export interface LaidEvent extends Omit<TimelineEvent, 'track'> {
  readonly level: readonly number[]
}

/** Lays the items of a file out flat, at the timeline's rate, and says what it could not. */
export class OtioLayout {
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
  ): { clip: Clip & Pick<TimelineEvent, 'channels' | 'gain'>; length: Frames; zero: Time | null; speed: Speed } {
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
    const rate = (available ?? used).start.rate
    const first = at(used.start, rate)
    const length = at(used.duration, this.rate)
    const took = sourceLength(sameRate(rate, this.rate) ? length : at(used.duration, rate), speed)
    const range = available && {
      in: at(available.start, rate),
      out: at(available.start, rate) + at(available.duration, rate),
      rate,
    }
    if (range && !isGenerated(media) && (first < range.in || first + Math.max(1, took) > range.out))
      this.complain(
        'otio.range',
        `The clip “${name}” takes frames that its media, by what the file says of it, does not have.`,
        where,
        'Check its ends once the media is linked.',
      )
    return {
      clip: {
        name,
        speed,
        ...told(item, media),
        source: isGenerated(media) ? null : { in: first, out: first + Math.max(1, took), rate },
        ...(range ? { available: range } : {}),
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
        // a fade to nothing: over the end of a clip, and on into the gap behind it
        const next = children[i + 1]
        if (next === undefined || schemaOf(next) === 'Gap') {
          const gap = next === undefined ? 0 : this.item(next, kind, depth + 1, where).length
          const before = Math.min(pending.before, last[0] ? last[0].record.out - last[0].record.in : 0)
          const frames = before + Math.min(pending.after, gap)
          if (frames > 0)
            events.push({
              ...black(kind, { in: position - before, out: position - before + frames }),
              transition: {
                kind: pending.wipe ? 'wipe' : 'dissolve',
                frames,
                ...(before ? { before } : {}),
              },
            })
          if (before > 0) shorten(events, last, position - before)
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

/** What a clip says of where it comes from: reel, file, channels, gain. */
function told(item: Json, media: Json): Pick<LaidEvent, 'reel' | 'file' | 'channels' | 'gain'> {
  const meta: Json = {
    ...(isObject(media.metadata) ? media.metadata : {}),
    ...(isObject(item.metadata) ? item.metadata : {}),
  }
  const own = isObject(meta[ours]) ? meta[ours] : {}
  const url = text(media.target_url)
  const sequence = schemaOf(media) === 'ImageSequenceReference'
  const file = url
    ? decode(url)
    : sequence
      ? decode(`${text(media.target_url_base)}${text(media.name_prefix)}${text(media.name_suffix)}`)
      : null
  const channels = list(own.channels).filter((c): c is number => Number.isInteger(c) && Number(c) >= 0)
  return {
    reel: text(own.reel) || text(meta.reel) || text(meta.reel_name) || (file ? '' : text(media.name)),
    file,
    ...(channels.length ? { channels } : {}),
    ...(typeof own.gain === 'number' && Number.isFinite(own.gain) ? { gain: own.gain } : {}),
  }
}

const isGenerated = (media: Json) =>
  schemaOf(media) === 'GeneratorReference' && /black|silence/i.test(text(media.generator_kind))

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
