import type { Problem } from '../../../problem'
import { nominalRate, type Frames } from '../../../time/rate'
import { formatTimecode } from '../../../time/timecode'
import { losses } from '../losses'
import { isNormal, normalSpeed, type Clip, type Timeline, type TimelineEvent } from '../../model'

/** The channel field of a track, where ST 258 has one. */
const fieldOf = (e: TimelineEvent) => (e.kind === 'video' ? 'V' : /^A(\d+)$/.exec(e.track)?.[1] === '1' ? 'A' : e.track)

/** Writes an edit decision list (ST 258). What it cannot hold is said: layers, levels, sources at another rate. */
export function writeEdl(t: Timeline): { text: string; problems: Problem[] } {
  const record = (n: Frames) => formatTimecode(t.start + n, t)
  const lines = [`TITLE: ${t.name}`, `FCM: ${modeOf(t.dropFrame)}`, '']
  let sourceDrop = t.dropFrame
  const events = [...t.events].sort(
    (a, b) =>
      a.record.in - b.record.in || (a.kind === b.kind ? a.track.localeCompare(b.track) : a.kind === 'video' ? -1 : 1),
  )
  events.forEach((e, i) => {
    const drop = e.source?.dropFrame ?? t.dropFrame
    if (e.source && drop !== sourceDrop) lines.push(`FCM: ${modeOf(drop)}`)
    if (e.source) sourceDrop = drop
    lines.push(...eventLines(t, e, e.transition?.outgoing ?? previousOf(events, e), i + 1))
  })
  for (const m of t.markers)
    lines.push(
      `* ${m.kind === 'chapter' ? 'CHAPTER' : 'MARKER'}: ${record(m.at)}${m.frames ? `+${m.frames}` : ''} ${m.name}`,
    )
  return { text: `${lines.join('\n')}\n`, problems: lost(t) }
}

function lost(t: Timeline): Problem[] {
  const { problems, lose } = losses(t.name, 'Use OpenTimelineIO where this matters.')
  lose(
    Math.max(0, t.tracks.filter((x) => x.kind === 'video').length - 1),
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
  return problems
}

/** The lines of one event: its outgoing side where a transition begins it, itself, its speed, its names. */
function eventLines(t: Timeline, e: TimelineEvent, before: Clip, n: number): string[] {
  const number = String(n).padStart(3, '0')
  const top = t.tracks.find((x) => x.kind === 'video')?.name
  const field = e.kind === 'video' && e.track !== top ? e.track.replace(/[^V\d]/g, '') : fieldOf(e)
  const drop = e.source?.dropFrame ?? t.dropFrame
  const record = (at: Frames) => formatTimecode(t.start + at, t)
  const source = (at: Frames) => formatTimecode(at, { rate: t.rate, dropFrame: drop })
  const times = (c: Clip, length: Frames) =>
    c.source
      ? `${source(c.source.in)} ${source(c.speed.num === c.speed.den ? c.source.in + length : c.source.out)}`
      : `${formatTimecode(0, t)} ${formatTimecode(length, t)}`
  const row = (c: Clip, how: string, length: Frames) =>
    `${number}  ${reelOf(c).padEnd(8)} ${field.padEnd(5)} ${how.padEnd(8)} ${times(c, length)} ` +
    `${record(e.record.in)} ${record(e.record.in + length)}`
  const length = e.record.out - e.record.in
  const lines: string[] = []
  if (e.transition) {
    const how = e.transition.kind === 'wipe' ? `W${String(e.transition.wipe ?? 1).padStart(3, '0')}` : 'D'
    lines.push(row(before, 'C', 0), row(e, `${how}    ${String(e.transition.frames).padStart(3, '0')}`, length))
  } else lines.push(row(e, 'C', length))
  if (e.source && !isNormal(e.speed)) {
    const perSecond = (e.speed.num * nominalRate(t.rate)) / e.speed.den
    lines.push(
      `M2   ${reelOf(e).padEnd(8)} ` +
        `${perSecond < 0 ? '-' : ''}${Math.abs(perSecond).toFixed(1).padStart(5, '0')}                ` +
        `${source(e.speed.num < 0 ? e.source.out - 1 : e.source.in)}`,
    )
  }
  return e.transition
    ? [...lines, ...nameLines('FROM', before, true), ...nameLines('TO', e, true)]
    : [...lines, ...nameLines('FROM', e, false)]
}

function nameLines(side: 'FROM' | 'TO', c: Clip, moves: boolean): string[] {
  const prefix = moves ? `${side} ` : ''
  return [
    ...(c.name ? [`* ${side} CLIP NAME: ${c.name}`] : []),
    ...(c.file ? [`* ${prefix}SOURCE FILE: ${c.file}`] : []),
    ...(c.source && c.reel && reelOf(c) === 'AX' && c.reel !== 'AX' ? [`* ${prefix}REEL NAME: ${c.reel}`] : []),
  ]
}

const modeOf = (drop: boolean) => (drop ? 'DROP FRAME' : 'NON-DROP FRAME')
const reelOf = (c: Clip) => (c.source ? (/^\S{1,32}$/.test(c.reel) ? c.reel : 'AX') : 'BL')

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
