import type { TimelineFormat } from './format'
import type { Problem } from '../../problem'
import { plural } from '../../text'
import { makeRate, nominalRate, type Frames, type Rate } from '../../time/rate'
import { canDropFrame, formatTimecode, parseTimecode } from '../../time/timecode'
import { losses } from './losses'
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
} from '../model'

const maxLines = 1_000_000
const timecode = String.raw`(\d\d?[:;.]\d\d[:;.]\d\d[:;.]\d\d\d?)`
const fourTimecodes = Array.from({ length: 4 }, () => timecode).join(String.raw`\s+`)
const eventLine = new RegExp(
  String.raw`^(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|K\s?[BO]?)\s+(?:(\d{1,4})\s+)?${fourTimecodes}\s*$`,
  'i',
)
const speedLine = new RegExp(String.raw`^M2\s+(?:(.*?)\s+)?([+-]?\d{1,4}(?:\.\d+)?)\s+${timecode}\s*$`, 'i')
const comment = /^\*\s*(FROM|TO)?\s*(CLIP NAME|SOURCE FILE|FILE NAME|REEL NAME|LONG REEL)\s*(?:IS)?\s*:\s*(.*)$/i
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
 * does not carry its rate: it is the one given, else 25, or 30000/1001 for a list that says drop-frame.
 */
export function readEdl(
  text: string,
  given: Rate | null,
  fileName: string,
): { timeline: Timeline; problems: Problem[] } {
  const lines = text.split(/\r\n|\n|\r/, maxLines)
  const rate = given ?? (lines.some((l) => /^\s*FCM:\s*DROP/i.test(l)) ? makeRate(30000, 1001) : makeRate(25))
  const events: Draft[] = []
  const markers: TimelineMarker[] = []
  const problems: Problem[] = []
  let title = ''
  let recordDrop = false
  let sourceDrop = false
  let sawMode = false
  let saidMixed = false
  /** Events of the number in hand, those of its last line, and the outgoing side of a transition to come. */
  let number = ''
  let group: Draft[] = []
  let line: Draft[] = []
  let outgoing: { field: string; clip: Loose<Clip> } | null = null
  let lastOutgoing: Loose<Clip> | null = null
  const complain = (
    at: number,
    code: string,
    message: string,
    fix = 'Correct the line in the list and bring it in again; the other lines are used as they are.',
  ) => {
    if (problems.length < 200) problems.push({ code, message, where: `${fileName}, line ${at}`, fix })
  }
  const plain = (label: string) => label.replace(/[;.]/g, ':')
  const read = (label: string, drop: boolean): { frames: Frames; dropFrame: boolean } | null => {
    const dropFrame = (drop || /[;][^:;]*$/.test(label)) && canDropFrame(rate)
    const frames = parseTimecode(plain(label), { rate, dropFrame })
    if (frames !== null) return { frames, dropFrame }
    const other = parseTimecode(plain(label), { rate, dropFrame: false })
    return other === null || !dropFrame ? null : { frames: other, dropFrame: false }
  }

  lines.forEach((raw, i) => {
    const text = raw.replace(/^\uFEFF/, '').trim()
    if (text === '') return
    const titled = /^TITLE:\s*(.*)$/i.exec(text)
    if (titled) {
      title = titled[1]!
      return
    }
    const mode = /^FCM:\s*(NON[- ]?DROP|DROP)/i.exec(text)
    if (mode) {
      sourceDrop = /^DROP/i.test(mode[1]!) && canDropFrame(rate)
      if (!sawMode) recordDrop = sourceDrop
      else if (sourceDrop !== recordDrop && !saidMixed) {
        saidMixed = true
        complain(
          i + 1,
          'edl.mixed-drop-frame',
          'The list changes between drop-frame and non-drop labels; record timecodes are read as the first ' +
            'line says, sources as the last.',
          'Nothing needs doing when sources of both kinds were used.',
        )
      }
      sawMode = true
      return
    }
    const speed = speedLine.exec(text)
    if (speed) {
      const entry = read(speed[3]!, sourceDrop)?.frames ?? null
      applySpeed(line, lastOutgoing, speed[1]?.trim() ?? '', Number(speed[2]), entry)
      if (line.length === 0) complain(i + 1, 'edl.stray-speed', 'A speed is given before any event.')
      return
    }
    if (text.startsWith('*')) {
      const marker = markerComment.exec(text)
      if (marker) {
        const at = read(marker[2]!, recordDrop)
        if (at)
          markers.push({
            kind: marker[1]!.toUpperCase() === 'CHAPTER' ? 'chapter' : 'marker',
            at: at.frames,
            frames: Number(marker[3] ?? 0),
            name: marker[4]!.trim(),
          })
        else complain(i + 1, 'edl.bad-timecode', `${marker[2]} is not a timecode at this rate.`)
        return
      }
      const c = comment.exec(text)
      if (c) applyComment(group, lastOutgoing, c[1]?.toUpperCase() ?? '', c[2]!.toUpperCase(), c[3]!.trim())
      return
    }
    const extra = /^AUD\s+(\d{1,2})(?:\s+(\d{1,2}))?\s*$/i.exec(text)
    if (extra) {
      for (const n of extra.slice(1).filter(Boolean).map(Number)) {
        const like = line[0]
        if (!like) continue
        const made: Draft = {
          ...like,
          track: `A${n}`,
          kind: 'audio',
          channels: [n - 1],
          source: like.source && { ...like.source },
          transition: like.transition && { ...like.transition },
        }
        events.push(made)
        group.push(made)
        line.push(made)
      }
      return
    }
    if (!/^\d{1,6}\s/.test(text)) return
    const m = eventLine.exec(text)
    if (!m) {
      complain(i + 1, 'edl.broken-line', `This line begins like an event but cannot be read: “${text.slice(0, 80)}”.`)
      return
    }
    const [, id, reel, field, how, duration] = m as unknown as [
      string,
      string,
      string,
      string,
      string,
      string | undefined,
    ]
    const times = m.slice(6, 10).map((label, k) => read(label, k < 2 ? sourceDrop : recordDrop))
    const bad = times.findIndex((t) => t === null)
    if (bad >= 0) {
      complain(i + 1, 'edl.bad-timecode', `${m[6 + bad]} is not a timecode at this rate.`)
      return
    }
    const [sourceIn, sourceOut, recordIn, recordOut] = times.map((t) => t!.frames) as [number, number, number, number]
    const tracks = tracksOf(field)
    if (!tracks) {
      complain(i + 1, 'edl.channels', `“${field}” is no channel field that is known here.`)
      return
    }
    if (recordOut < recordIn) {
      complain(i + 1, 'edl.backwards', `The event ends (${m[9]}) before it begins (${m[8]}).`)
      return
    }
    if (id !== number) {
      number = id
      group = []
      outgoing = null
    }
    const base = { rate, dropFrame: times[0]!.dropFrame }
    const clip: Loose<Clip> = {
      name: '',
      reel,
      file: null,
      speed: normalSpeed,
      source: isBlack(reel) ? null : { in: Math.min(sourceIn, sourceOut), out: Math.max(sourceIn, sourceOut), ...base },
    }
    if (recordOut === recordIn) {
      // the outgoing side of a transition: it goes on from here
      if (clip.source) clip.source = { in: sourceIn, out: sourceIn + 1, ...base }
      outgoing = { field, clip }
      return
    }
    const kind = how.toUpperCase()
    if (kind.startsWith('K'))
      complain(
        i + 1,
        'edl.key',
        'A key is not made here: the event is shown as a cut.',
        'Flatten the key in the edit, or deliver that stretch as a file of its own.',
      )
    const frames = Math.min(Number(duration ?? 0), recordOut - recordIn)
    const moves = (kind === 'D' || kind.startsWith('W')) && frames > 0
    lastOutgoing = moves && outgoing ? outgoing.clip : null
    line = tracks.map((track): Draft => ({
      ...clip,
      source: clip.source && { ...clip.source },
      track: track.name,
      kind: track.kind,
      record: { in: recordIn, out: recordOut },
      named: false,
      ...(track.kind === 'audio' ? { channels: [Number(track.name.slice(1)) - 1] } : {}),
      transition: moves
        ? {
            kind: kind === 'D' ? 'dissolve' : 'wipe',
            frames,
            ...(kind === 'D' ? {} : { wipe: Number(kind.slice(1)) }),
            ...(lastOutgoing ? { outgoing: lastOutgoing } : {}),
          }
        : null,
    }))
    outgoing = null
    events.push(...line)
    group.push(...line)
    if (line.length === 0) complain(i + 1, 'edl.channels', 'The event is on no channel and is left out.')
  })
  if (lines.length === maxLines)
    complain(maxLines, 'edl.too-long', 'The list is longer than a million lines; the rest is left out.')
  if (events.length === 0 && problems.length === 0)
    problems.push({
      code: 'edl.no-events',
      message: 'There are no events in this list.',
      where: fileName,
      fix: 'Check that it is an edit decision list, and that it was written completely.',
    })
  return { timeline: finish(title, rate, recordDrop, events, markers, problems, fileName), problems }
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
    const tenths = Math.round(perSecond * 10)
    const speed: Speed = lowest({ num: tenths, den: base * 10 })
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

function finish(
  title: string,
  rate: Rate,
  dropFrame: boolean,
  drafts: readonly Draft[],
  markers: readonly TimelineMarker[],
  problems: Problem[],
  fileName: string,
): Timeline {
  let start = Infinity
  let end = 0
  for (const e of drafts) {
    start = Math.min(start, e.record.in)
    end = Math.max(end, e.record.out)
  }
  if (!Number.isFinite(start)) start = 0
  let odd = 0
  const events = drafts.map(({ named: _, ...e }): TimelineEvent => {
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
    name: title,
    rate,
    dropFrame,
    start,
    length: Math.max(0, end - start),
    tracks,
    events,
    markers: markers.map((m) => ({ ...m, at: m.at - start })),
  }
}

/** The channel field of a track, where ST 258 has one. */
const fieldOf = (e: TimelineEvent) => (e.kind === 'video' ? 'V' : /^A(\d+)$/.exec(e.track)?.[1] === '1' ? 'A' : e.track)

/** Writes an edit decision list (ST 258). What it cannot hold is said: layers, levels, sources at another rate. */
export function writeEdl(t: Timeline): { text: string; problems: Problem[] } {
  const { problems, lose } = losses(t.name, 'Use OpenTimelineIO where this matters.')
  const videoTracks = t.tracks.filter((x) => x.kind === 'video')
  lose(
    Math.max(0, videoTracks.length - 1),
    'edl.layers',
    'A list has one layer of pictures; # layers more are written as further V channels, which not every reader knows.',
  )
  lose(t.events.filter((e) => e.gain).length, 'edl.gain', 'A list has no sound levels; those of # events are lost.')
  lose(
    t.events.filter((e) => e.source && e.source.rate.num * t.rate.den !== t.rate.num * e.source.rate.den).length,
    'edl.rate',
    'A list counts everything at one rate; the source timecodes of # events run at another and are written as ' +
      'they count.',
  )
  lose(
    t.events.filter((e) => e.channels && e.channels.length > 1).length,
    'edl.channels',
    'The channels of # events cannot all be written.',
  )
  lose(
    t.markers.filter((m) => m.kind === 'part').length,
    'edl.parts',
    'A list holds no timelines inside it; # markers stand for them.',
  )
  const record = (n: Frames) => formatTimecode(t.start + n, t)
  const lines = [`TITLE: ${t.name}`, `FCM: ${t.dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '']
  let sourceDrop = t.dropFrame
  const top = videoTracks[0]?.name
  const events = [...t.events].sort(
    (a, b) =>
      a.record.in - b.record.in || (a.kind === b.kind ? a.track.localeCompare(b.track) : a.kind === 'video' ? -1 : 1),
  )
  const reelOf = (c: Clip) => (c.source ? (/^\S{1,32}$/.test(c.reel) ? c.reel : 'AX') : 'BL')
  events.forEach((e, i) => {
    const number = String(i + 1).padStart(3, '0')
    const field = e.kind === 'video' && e.track !== top ? e.track.replace(/[^V\d]/g, '') : fieldOf(e)
    const drop = e.source?.dropFrame ?? t.dropFrame
    if (e.source && drop !== sourceDrop) lines.push(`FCM: ${drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`)
    if (e.source) sourceDrop = drop
    const source = (n: Frames) => formatTimecode(n, { rate: t.rate, dropFrame: drop })
    const times = (c: Clip, length: Frames) =>
      c.source
        ? `${source(c.source.in)} ${source(c.speed.num === c.speed.den ? c.source.in + length : c.source.out)}`
        : `${formatTimecode(0, t)} ${formatTimecode(length, t)}`
    const row = (c: Clip, how: string, length: Frames) =>
      `${number}  ${reelOf(c).padEnd(8)} ${field.padEnd(5)} ${how.padEnd(8)} ${times(c, length)} ` +
      `${record(e.record.in)} ${record(e.record.in + length)}`
    const after: string[] = []
    const named = (side: 'FROM' | 'TO', c: Clip) => {
      const prefix = e.transition ? `${side} ` : ''
      if (c.name) after.push(`* ${side} CLIP NAME: ${c.name}`)
      if (c.file) after.push(`* ${prefix}SOURCE FILE: ${c.file}`)
      if (c.source && c.reel && reelOf(c) === 'AX' && c.reel !== 'AX') after.push(`* ${prefix}REEL NAME: ${c.reel}`)
    }
    const length = e.record.out - e.record.in
    if (e.transition) {
      const before = e.transition.outgoing ?? previousOf(events, e)
      lines.push(
        row(before, 'C', 0),
        row(
          e,
          `${e.transition.kind === 'wipe' ? `W${String(e.transition.wipe ?? 1).padStart(3, '0')}` : 'D'}    ` +
            `${String(e.transition.frames).padStart(3, '0')}`,
          length,
        ),
      )
      named('FROM', before)
      named('TO', e)
    } else {
      lines.push(row(e, 'C', length))
      named('FROM', e)
    }
    if (e.source && !isNormal(e.speed)) {
      const perSecond = (e.speed.num * nominalRate(t.rate)) / e.speed.den
      lines.push(
        `M2   ${reelOf(e).padEnd(8)} ` +
          `${perSecond < 0 ? '-' : ''}${Math.abs(perSecond).toFixed(1).padStart(5, '0')}                ` +
          `${source(e.speed.num < 0 ? e.source.out - 1 : e.source.in)}`,
      )
    }
    lines.push(...after)
  })
  for (const m of t.markers)
    lines.push(
      `* ${m.kind === 'chapter' ? 'CHAPTER' : 'MARKER'}: ${record(m.at)}${m.frames ? `+${m.frames}` : ''} ${m.name}`,
    )
  return { text: `${lines.join('\n')}\n`, problems }
}

/** What is on the same track before an event, going on past its end; black when there is nothing. */
export function previousOf(events: readonly TimelineEvent[], e: TimelineEvent): Clip {
  const before = events.find((x) => x.track === e.track && x.kind === e.kind && x.record.out === e.record.in)
  if (!before?.source) return { name: '', reel: 'BL', file: null, source: null, speed: normalSpeed }
  const length = before.record.out - before.record.in
  const next =
    before.speed.num < 0
      ? before.source.out - 1 - Math.floor((length * -before.speed.num) / before.speed.den)
      : before.source.in + Math.floor((length * before.speed.num) / before.speed.den)
  return {
    name: before.name,
    reel: before.reel,
    file: before.file,
    speed: before.speed,
    source: { ...before.source, in: next, out: next + 1 },
  }
}

/** Edit decision lists (SMPTE ST 258). */
export const edl: TimelineFormat = {
  name: 'edl',
  label: 'an edit decision list',
  extensions: ['.edl', '.txt'],
  holds: 'timeline',
  recognise: (head) => /^(TITLE:|FCM:)/im.test(head) || /^\d{1,6}\s+\S+\s+\S+\s+(C|D|W\d|K)\b/m.test(head),
  read: (text, fileName, rate) => readEdl(text, rate, fileName),
  write: writeEdl,
}
