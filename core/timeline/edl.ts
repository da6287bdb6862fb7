import type { Problem } from '../problem'
import type { FrameRange } from '../time/range'
import type { Frames, Rate } from '../time/rate'
import { canDropFrame, parseTimecode } from '../time/timecode'
import type { TimelineEvent } from './model'

/** What an edit decision list says; `record` of its events are absolute frame counts of the record timecode. */
export interface EditDecisionList {
  readonly title: string
  readonly dropFrame: boolean
  readonly events: readonly TimelineEvent[]
  readonly problems: readonly Problem[]
}

const maxLines = 1_000_000

/**
 * Reads an edit decision list (SMPTE ST 258): events with four timecodes, FCM lines, names from comments.
 * Broken lines are named and skipped; the rest is kept. The list does not carry its rate: it is the timeline's.
 */
export function readEdl(text: string, rate: Rate, fileName: string): EditDecisionList {
  const events: TimelineEvent[] = []
  const problems: Problem[] = []
  let title = ''
  let dropFrame = false
  let sawMode = false
  const complain = (line: number, code: string, message: string) => {
    if (problems.length < 200) problems.push({ code, message, where: `${fileName}, line ${line}`, fix: 'Correct the line in the list and bring it in again; the other lines are used as they are.' })
  }
  const lines = text.split(/\r\n|\n|\r/, maxLines)
  for (let i = 0; i < lines.length; i++) {
    const line = lines[i]!.replace(/^\uFEFF/, '').trim()
    if (line === '') continue
    const titled = /^TITLE:\s*(.*)$/i.exec(line)
    if (titled) {
      title = titled[1]!
      continue
    }
    const mode = /^FCM:\s*(NON[- ]?DROP|DROP)/i.exec(line)
    if (mode) {
      const drop = /^DROP/i.test(mode[1]!)
      if (!sawMode) dropFrame = drop && canDropFrame(rate)
      else if (drop !== dropFrame && canDropFrame(rate)) complain(i + 1, 'edl.mixed-drop-frame', 'The list changes between drop-frame and non-drop labels; record timecodes are read as the first line says.')
      sawMode = true
      continue
    }
    if (line.startsWith('*')) {
      const name = /^\*\s*(FROM|TO) CLIP NAME:\s*(.*)$/i.exec(line)
      const last = events.at(-1)
      if (name && last && (name[1]!.toUpperCase() === 'TO' || last.transition === null)) events[events.length - 1] = { ...last, name: name[2]!.trim() }
      continue
    }
    if (!/^\d{1,6}\s/.test(line)) continue
    const m = /^(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|K\S*)\s+(?:(\d{1,4})\s+)?(\d\d?[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d?[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d?[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d?[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s*$/.exec(line)
    if (!m) {
      complain(i + 1, 'edl.broken-line', `This line begins like an event but cannot be read: “${line.slice(0, 80)}”.`)
      continue
    }
    const base = { rate, dropFrame }
    const plain = { rate, dropFrame: false }
    const label = (t: string) => t.replace(/^(\d\d?)[:;.](\d\d)[:;.](\d\d)/, '$1:$2:$3')
    const times = m.slice(6, 10).map((t, k) => parseTimecode(label(t), base) ?? (k < 2 ? parseTimecode(label(t), plain) : null))
    const bad = times.findIndex(t => t === null)
    if (bad >= 0) {
      complain(i + 1, 'edl.bad-timecode', `${m[6 + bad]} is not a timecode at this rate.`)
      continue
    }
    const [sourceIn, sourceOut, recordIn, recordOut] = times as number[]
    if (recordOut! < recordIn!) {
      complain(i + 1, 'edl.backwards', `The event ends (${m[9]}) before it begins (${m[8]}).`)
      continue
    }
    if (recordOut === recordIn) continue
    const kind = m[4]!
    events.push({
      track: m[3]!, kind: /^A/i.test(m[3]!) ? 'audio' : 'video', name: '', reel: m[2]!,
      source: { in: sourceIn!, out: sourceOut!, rate }, record: { in: recordIn!, out: recordOut! },
      transition: kind === 'C' || kind.startsWith('K') ? null : { kind: kind === 'D' ? 'dissolve' : 'wipe', frames: Number(m[5] ?? 0) },
    })
  }
  if (lines.length === maxLines) complain(maxLines, 'edl.too-long', 'The list is longer than a million lines; the rest is left out.')
  if (events.length === 0 && problems.length === 0) problems.push({ code: 'edl.no-events', message: 'There are no events in this list.', where: fileName, fix: 'Check that it is an edit decision list, and that it was written completely.' })
  return { title, dropFrame, events, problems }
}

/** Matches a list against one flattened file: events counted from the file's start, and what does not fit in words. */
export function placeEvents(
  list: EditDecisionList,
  media: { readonly start: Frames, readonly length: Frames, readonly dropFrame: boolean, readonly hasTimecode: boolean },
  fileName: string,
): { events: TimelineEvent[], problems: Problem[] } {
  const problems: Problem[] = [...list.problems]
  if (list.events.length === 0) return { events: [], problems }
  const first = Math.min(...list.events.map(e => e.record.in))
  const last = Math.max(...list.events.map(e => e.record.out))
  if (media.hasTimecode && list.dropFrame !== media.dropFrame) {
    problems.push({ code: 'timeline.drop-frame', message: `The list counts ${list.dropFrame ? 'drop-frame' : 'non-drop'}, the media ${media.dropFrame ? 'drop-frame' : 'non-drop'}.`, where: fileName, fix: 'Export the list again with the labels of the media.' })
  }
  // without a timecode in the file, its first frame is where the list begins
  const start = media.hasTimecode ? media.start : first
  const whole: FrameRange = { in: 0, out: media.length }
  const events = list.events.map(e => ({ ...e, record: { in: e.record.in - start, out: e.record.out - start } }))
  const inside = events.filter(e => e.record.out > whole.in && e.record.in < whole.out)
  if (inside.length === 0) {
    problems.push({ code: 'timeline.start', message: 'No event of the list lies within the media: their start timecodes do not match.', where: fileName, fix: 'Check that the list and the media belong together, or correct the start timecode.' })
    return { events: [], problems }
  }
  if (first < start) problems.push({ code: 'timeline.start', message: `The list begins ${start - first} frames before the media.`, where: fileName, fix: 'Check the start timecode of the media.' })
  if (last - start > media.length) problems.push({ code: 'timeline.length', message: `The list ends ${last - start - media.length} frames after the media.`, where: fileName, fix: 'The media may be an older version; link the current one.' })
  else if (last - start < media.length) problems.push({ code: 'timeline.length', message: `The media is ${media.length - (last - start)} frames longer than the list.`, where: fileName, fix: 'The frames after the last event are kept as a shot without a name.' })
  return { events: inside.map(e => ({ ...e, record: { in: Math.max(0, e.record.in), out: Math.min(media.length, e.record.out) } })), problems }
}
