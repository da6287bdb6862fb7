import type { Problem } from '../../../problem'
import { plural } from '../../../text'
import { nominalRate, type Frames, type Rate } from '../../../time/rate'
import { countedFrom } from '../../../time/midnight'
import { canDropFrame, parseTimecode } from '../../../time/timecode'
import {
  isNormal,
  normalSpeed,
  sourceLength,
  type Clip,
  type SourceRange,
  type Speed,
  type Timeline,
  type TimelineEvent,
  type TimelineMarker,
  type Track,
} from '../../model'
import { overlapping } from '../../overlap'
import { rateOfLabels } from '../rate'

const maxLines = 1_000_000
const timecode = String.raw`(\d\d?[:;.]\d\d[:;.]\d\d[:;.]\d\d\d?)`
const fourTimecodes = Array.from({ length: 4 }, () => timecode).join(String.raw`\s+`)
const eventLine = new RegExp(
  String.raw`^(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|K\s?[BO]?)\s+(?:(\d{1,4})\s+)?${fourTimecodes}\s*$`,
  'i',
)
const speedLine = new RegExp(String.raw`^M2\s+(?:(.*?)\s+)?([+-]?\d{1,4}(?:\.\d+)?)\s+${timecode}\s*$`, 'i')
const comment = /^\*\s*(FROM|TO)?\s*(CLIP NAME|SOURCE FILE|FILE NAME|REEL NAME|LONG REEL)\s*(?:IS)?\s*:\s*(.*)$/i
/** Locators, as some editors write their markers: a place, a colour, words. */
const locator = new RegExp(String.raw`^\*\s*LOC\s*:\s*${timecode}\s*(.*)$`, 'i')
const markerComment = new RegExp(String.raw`^\*\s*(MARKER|CHAPTER)\s*:\s*${timecode}(?:\s*\+\s*(\d+))?\s*(.*)$`, 'i')

/** Reels that stand for no recording: black, and the line or switcher input that an auxiliary is. */
const isBlack = (reel: string) => /^(BL|BLK|BLACK)$/i.test(reel)

type Loose<T> = { -readonly [K in keyof T]: T[K] }
interface Draft extends Omit<Loose<TimelineEvent>, 'transition' | 'source'> {
  source: Loose<SourceRange> | null
  transition: Loose<NonNullable<TimelineEvent['transition']>> | null
  named: boolean
}

/** The tracks a channel field stands for (ST 258): `V`, `A`, `A2`, `AA`, `B`, and combinations with `/`. */
function tracksOf(field: string): Track[] | null {
  const out: Track[] = []
  const audio = (n: number) => out.push({ name: `A${n}`, kind: 'audio' })
  for (const part of field.toUpperCase().split('/')) {
    const numbered = /^([VA])(\d{1,2})$/.exec(part)
    if (part === 'V') out.push({ name: 'V', kind: 'video' })
    else if (part === 'A') audio(1)
    else if (part === 'AA') [1, 2].forEach(audio)
    else if (part === 'B') {
      out.push({ name: 'V', kind: 'video' })
      audio(1)
    } else if (numbered?.[1] === 'V') out.push({ name: numbered[2] === '1' ? 'V' : part, kind: 'video' })
    else if (numbered) audio(Number(numbered[2]))
    else if (part !== 'NONE') return null
  }
  return out
}

/**
 * Reads an edit decision list (SMPTE ST 258): events with four timecodes, dissolves and wipes with lengths, FCM lines,
 * M2 speeds, names, files and markers from comments. Broken lines are named and skipped; the rest is kept. The list
 * does not carry its rate: it is the one given, else what its labels tell.
 */
export function readEdl(
  text: string,
  given: Rate | null,
  fileName: string,
): { timeline: Timeline; problems: Problem[] } {
  const lines = text.split(/\r\n|\n|\r/, maxLines)
  const told = given ? { rate: given, problem: null } : rateOf(lines, fileName)
  const reader = new EdlReader(told.rate, fileName)
  if (told.problem) reader.problems.push(told.problem)
  lines.forEach((raw, i) => reader.read(raw.replace(/^\uFEFF/, '').trim(), i + 1))
  if (lines.length === maxLines) reader.tooLong()
  return { timeline: reader.finish(), problems: reader.problems }
}

function rateOf(lines: readonly string[], fileName: string) {
  const events = lines.filter((l) => /^\s*\d{1,6}\s/.test(l))
  return rateOfLabels(
    events,
    lines.some((l) => /^\s*FCM:\s*DROP/i.test(l)),
    fileName,
  )
}

/** What stands in an event's line, its four timecodes still as labels. */
interface EventFields {
  readonly id: string
  readonly reel: string
  readonly field: string
  readonly how: string
  readonly frames: number
  readonly labels: readonly string[]
}

class EdlReader {
  readonly problems: Problem[] = []
  private readonly events: Draft[] = []
  private readonly markers: TimelineMarker[] = []
  private title = ''
  private recordDrop = false
  private sourceDrop = false
  private sawMode = false
  private saidMixed = false
  /** Events of the number in hand, those of its last line, and the outgoing side of a transition to come. */
  private number = ''
  private group: Draft[] = []
  private line: Draft[] = []
  private outgoing: Loose<Clip> | null = null
  private lastOutgoing: Loose<Clip> | null = null

  constructor(
    private readonly rate: Rate,
    private readonly fileName: string,
  ) {}

  /** Takes one line, blanks at its ends cut off; `at` is its number from 1. */
  read(text: string, at: number): void {
    if (text === '') return
    const titled = /^TITLE:\s*(.*)$/i.exec(text)
    const mode = /^FCM:\s*(NON[- ]?DROP|DROP)/i.exec(text)
    const speed = speedLine.exec(text)
    const extra = /^AUD\s+(\d{1,2})(?:\s+(\d{1,2}))?\s*$/i.exec(text)
    if (titled) this.title = titled[1]!
    else if (mode) this.countMode(/^DROP/i.test(mode[1]!), at)
    else if (speed) this.speed(speed[1]?.trim() ?? '', Number(speed[2]), speed[3]!, at)
    else if (/^M2\s/i.test(text))
      this.complain(at, 'edl.broken-speed', `This speed cannot be read: “${text.slice(0, 80)}”; normal speed is taken.`)
    else if (text.startsWith('*')) this.comment(text, at)
    else if (extra)
      extra
        .slice(1)
        .filter(Boolean)
        .map(Number)
        .forEach((n) => this.furtherTrack(n))
    else if (/^\d{1,6}\s/.test(text)) this.event(text, at)
  }

  private complain(
    at: number,
    code: string,
    message: string,
    fix = 'Correct the line in the list and bring it in again; the other lines are used as they are.',
  ): void {
    if (this.problems.length < 200) this.problems.push({ code, message, where: `${this.fileName}, line ${at}`, fix })
  }

  tooLong(): void {
    this.complain(maxLines, 'edl.too-long', 'The list is longer than a million lines; the rest is left out.')
  }

  private timecode(label: string, drop: boolean): { frames: Frames; dropFrame: boolean } | null {
    const { rate } = this
    const plain = label.replace(/[;.]/g, ':')
    const dropFrame = (drop || /[;][^:;]*$/.test(label)) && canDropFrame(rate)
    const frames = parseTimecode(plain, { rate, dropFrame })
    if (frames !== null) return { frames, dropFrame }
    const other = parseTimecode(plain, { rate, dropFrame: false })
    return other === null || !dropFrame ? null : { frames: other, dropFrame: false }
  }

  /** Record labels of a list that runs past midnight go on where they were. */
  private afterMidnight(label: { frames: Frames; dropFrame: boolean }): Frames {
    const first = this.events[0]?.record.in
    return first === undefined
      ? label.frames
      : countedFrom(first, label.frames, { rate: this.rate, dropFrame: label.dropFrame })
  }

  private countMode(drop: boolean, at: number): void {
    this.sourceDrop = drop && canDropFrame(this.rate)
    if (!this.sawMode) this.recordDrop = this.sourceDrop
    else if (this.sourceDrop !== this.recordDrop && !this.saidMixed) {
      this.saidMixed = true
      this.complain(
        at,
        'edl.mixed-drop-frame',
        'The list changes between drop-frame and non-drop labels; record timecodes are read as the first ' +
          'line says, sources as the last.',
        'Nothing needs doing when sources of both kinds were used.',
      )
    }
    this.sawMode = true
  }

  private speed(reel: string, perSecond: number, label: string, at: number): void {
    const entry = this.timecode(label, this.sourceDrop)?.frames ?? null
    applySpeed(this.line, this.lastOutgoing, reel, perSecond, entry)
    if (this.line.length === 0) this.complain(at, 'edl.stray-speed', 'A speed is given before any event.')
  }

  private comment(text: string, at: number): void {
    const found = locator.exec(text)
    if (found) {
      const place = this.timecode(found[1]!, this.recordDrop)
      if (!place) return this.complain(at, 'edl.bad-timecode', `${found[1]} is not a timecode at this rate.`)
      // the first word is the colour it has in the edit; where nothing follows it is all there is
      const name = found[2]!.trim().replace(/^[A-Z]+\s+(?=\S)/, '')
      this.markers.push({ kind: 'marker', at: place.frames, frames: 0, name })
      return
    }
    const marker = markerComment.exec(text)
    if (!marker) {
      const c = comment.exec(text)
      if (c) applyComment(this.group, this.lastOutgoing, c[1]?.toUpperCase() ?? '', c[2]!.toUpperCase(), c[3]!.trim())
      return
    }
    const place = this.timecode(marker[2]!, this.recordDrop)
    if (!place) return this.complain(at, 'edl.bad-timecode', `${marker[2]} is not a timecode at this rate.`)
    this.markers.push({
      kind: marker[1]!.toUpperCase() === 'CHAPTER' ? 'chapter' : 'marker',
      at: place.frames,
      frames: Number(marker[3] ?? 0),
      name: marker[4]!.trim(),
    })
  }

  /** `AUD 3 4` puts the event before it on further sound tracks. */
  private furtherTrack(n: number): void {
    const like = this.line[0]
    if (!like) return
    const made: Draft = {
      ...like,
      track: `A${n}`,
      kind: 'audio',
      channels: [n - 1],
      source: like.source && { ...like.source },
      transition: like.transition && { ...like.transition },
    }
    for (const list of [this.events, this.group, this.line]) list.push(made)
  }

  private event(text: string, at: number): void {
    const m = eventLine.exec(text)
    if (!m)
      return this.complain(
        at,
        'edl.broken-line',
        `This line begins like an event but cannot be read: “${text.slice(0, 80)}”.`,
      )
    const e: EventFields = {
      id: m[1]!,
      reel: m[2]!,
      field: m[3]!,
      how: m[4]!.toUpperCase(),
      frames: Number(m[5] ?? 0),
      labels: m.slice(6, 10),
    }
    const times = e.labels.map((label, k) => this.timecode(label, k < 2 ? this.sourceDrop : this.recordDrop))
    const bad = times.findIndex((t) => t === null)
    if (bad >= 0) return this.complain(at, 'edl.bad-timecode', `${e.labels[bad]} is not a timecode at this rate.`)
    const tracks = tracksOf(e.field)
    if (!tracks) return this.complain(at, 'edl.channels', `“${e.field}” is no channel field that is known here.`)
    const [sourceIn, recordIn] = [times[0]!.frames, this.afterMidnight(times[2]!)]
    const base = { rate: this.rate, dropFrame: times[0]!.dropFrame }
    const sourceOut = countedFrom(sourceIn, times[1]!.frames, base)
    const recordOut = countedFrom(recordIn, times[3]!.frames, { rate: this.rate, dropFrame: times[2]!.dropFrame })
    if (recordOut < recordIn)
      return this.complain(at, 'edl.backwards', `The event ends (${e.labels[3]}) before it begins (${e.labels[2]}).`)
    if (e.id !== this.number) {
      this.number = e.id
      this.group = []
      this.outgoing = null
    }
    const source = isBlack(e.reel)
      ? null
      : { in: Math.min(sourceIn, sourceOut), out: Math.max(sourceIn, sourceOut), ...base }
    const clip: Loose<Clip> = { name: '', reel: e.reel, file: null, speed: normalSpeed, source }
    if (recordOut > recordIn) this.place(clip, e, tracks, { in: recordIn, out: recordOut }, at)
    // the outgoing side of a transition: it goes on from here
    else this.outgoing = { ...clip, source: source && { in: sourceIn, out: sourceIn + 1, ...base } }
  }

  /** Puts a clip on its tracks, with the transition that its line asks for. */
  private place(
    clip: Loose<Clip>,
    e: EventFields,
    tracks: readonly Track[],
    record: { in: Frames; out: Frames },
    at: number,
  ): void {
    if (e.how.startsWith('K'))
      this.complain(
        at,
        'edl.key',
        'A key is not made here: the event is shown as a cut.',
        'Flatten the key in the edit, or deliver that stretch as a file of its own.',
      )
    const frames = Math.min(e.frames, record.out - record.in)
    if (e.frames > frames)
      this.complain(
        at,
        'edl.long-transition',
        `The transition of ${plural(e.frames, 'frame')} is longer than its event; it takes the ${frames} there are.`,
      )
    const moves = (e.how === 'D' || e.how.startsWith('W')) && frames > 0
    this.lastOutgoing = moves ? this.outgoing : null
    const outgoing = this.lastOutgoing
    this.line = tracks.map((track): Draft => ({
      ...clip,
      source: clip.source && { ...clip.source },
      track: track.name,
      kind: track.kind,
      record: { ...record },
      named: false,
      ...(track.kind === 'audio' ? { channels: [Number(track.name.slice(1)) - 1] } : {}),
      transition: moves
        ? {
            kind: e.how === 'D' ? 'dissolve' : 'wipe',
            frames,
            ...(e.how === 'D' ? {} : { wipe: Number(e.how.slice(1)) }),
            ...(outgoing ? { outgoing } : {}),
          }
        : null,
    }))
    this.outgoing = null
    this.events.push(...this.line)
    this.group.push(...this.line)
    if (this.line.length === 0) this.complain(at, 'edl.channels', 'The event is on no channel and is left out.')
  }

  /** Events of one track that lie over each other: the later one is seen, then the rest of the earlier again. */
  private sayOverlaps(): void {
    const over = overlapping(this.events)
    if (over.length === 0) return
    const first = over[0]!
    this.problems.push({
      code: 'edl.overlap',
      message:
        `${plural(over.length, 'event lies', 'events lie')} over another on the same track, the first ` +
        `“${first.name || first.reel}”; the later one is seen, then what is left of the earlier.`,
      where: this.fileName,
      fix: 'Check these places, or write the list again without overlaps.',
    })
  }

  /** The timeline of all lines taken; places count from its first event. */
  finish(): Timeline {
    const { rate, fileName, problems } = this
    if (this.events.length === 0 && problems.length === 0)
      problems.push({
        code: 'edl.no-events',
        message: 'There are no events in this list.',
        where: fileName,
        fix: 'Check that it is an edit decision list, and that it was written completely.',
      })
    this.sayOverlaps()
    let start = Infinity
    let end = 0
    for (const e of this.events) {
      start = Math.min(start, e.record.in)
      end = Math.max(end, e.record.out)
    }
    if (!Number.isFinite(start)) start = 0
    let odd = 0
    const events = this.events.map(({ named: _, ...e }): TimelineEvent => {
      const length = e.record.out - e.record.in
      if (e.source && isNormal(e.speed) && e.source.out - e.source.in !== length) {
        odd++
        e.source = { ...e.source, out: e.source.in + length }
      }
      return { ...e, record: { in: e.record.in - start, out: e.record.out - start } }
    })
    if (odd)
      problems.push({
        code: 'edl.length',
        message:
          `${plural(odd, 'event takes', 'events take')} more or less source than its place on the ` +
          'timeline, and no speed is given; played at normal speed from the source in.',
        where: fileName,
        fix: 'Check these events, or export the list again with its speeds.',
      })
    const names = new Set(events.map((e) => `${e.kind}/${e.track}`))
    const order = (name: string) => Number(/\d+/.exec(name)?.[0] ?? 1)
    const tracks = [...names]
      .map((n): Track => ({ kind: n.startsWith('video') ? 'video' : 'audio', name: n.split('/')[1]! }))
      .sort((a, b) => (a.kind === b.kind ? order(a.name) - order(b.name) : a.kind === 'video' ? -1 : 1))
    return {
      name: this.title,
      rate,
      dropFrame: this.recordDrop,
      start,
      length: Math.max(0, end - start),
      tracks,
      events,
      markers: this.markers.map((m) => ({ ...m, at: m.at - start })),
    }
  }
}

/** M2 (ST 258): source frames a second; the entry point tells where a reverse begins. */
function applySpeed(
  line: readonly Draft[],
  outgoing: Loose<Clip> | null,
  reel: string,
  perSecond: number,
  entry: Frames | null,
): void {
  const clips: (Draft | Loose<Clip>)[] =
    outgoing && reel && reel === outgoing.reel && reel !== line[0]?.reel ? [outgoing] : [...line]
  for (const c of clips) {
    if (!c.source) continue
    const base = nominalRate(c.source.rate)
    const exact = c.source.rate.num / c.source.rate.den
    // lists write the rate itself as 24.0 or as 23.98: both are normal speed
    const normal = Math.abs(Math.abs(perSecond) - exact) < 0.011
    const speed: Speed = normal
      ? { num: Math.sign(perSecond), den: 1 }
      : lowest({ num: Math.round(perSecond * 1000), den: base * 1000 })
    c.speed = speed
    if (!('record' in c)) continue
    const length = sourceLength(c.record.out - c.record.in, speed)
    if (speed.num >= 0) c.source = { ...c.source, out: c.source.in + length }
    else {
      // an entry point past the in is the first frame shown; else the listed range is played from its end
      const last =
        entry !== null && entry > c.source.in && entry <= c.source.out
          ? Math.min(entry, c.source.out - 1)
          : c.source.out > c.source.in
            ? c.source.out - 1
            : c.source.in
      c.source = { ...c.source, in: last + 1 - length, out: last + 1 }
    }
  }
}

function lowest(s: Speed): Speed {
  let [a, b] = [Math.abs(s.num), s.den]
  while (b) [a, b] = [b, a % b]
  return a === 0 ? { num: 0, den: 1 } : { num: s.num / a, den: s.den / a }
}

function applyComment(
  group: readonly Draft[],
  outgoing: Loose<Clip> | null,
  side: string,
  what: string,
  value: string,
): void {
  if (value === '') return
  const set = (c: Loose<Clip>) => {
    if (what === 'CLIP NAME') c.name = value
    else if (what.includes('REEL')) c.reel = value
    else c.file = value
  }
  const moving = group.some((e) => e.transition)
  if (side === 'FROM' && moving) {
    if (outgoing) set(outgoing)
    return
  }
  for (const e of group)
    if (what !== 'CLIP NAME' || side === 'TO' || !e.named) {
      set(e)
      if (what === 'CLIP NAME') e.named = true
    }
}
