import type { TimelineFormat } from './format'
import type { Problem } from '../../problem'
import { fail } from '../../problem'
import { framesToSeconds, makeRate, type Frames, type Rate } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { formatTimecode, type TimeBase } from '../../time/timecode'
import { csvLine } from './csv'
import type { Timeline, TimelineMarker } from '../model'
import { losses } from './losses'

/** `hh:mm:ss.mmm` of a frame count, to the nearest thousandth (W3C WebVTT 4.1). */
function stamp(frames: Frames, rate: Rate): string {
  const ms = Math.round(framesToSeconds(frames, rate) * 1000)
  const [hours, minutes, seconds] = [ms / 3_600_000, (ms / 60_000) % 60, (ms / 1000) % 60]
  const two = (v: number) => String(Math.floor(v)).padStart(2, '0')
  return `${two(hours!)}:${two(minutes!)}:${two(seconds!)}.${String(ms % 1000).padStart(3, '0')}`
}

/** The frame nearest to a time stamp. */
function frameOf(text: string, rate: Rate): Frames | null {
  const m = /^(?:(\d{2,}):)?([0-5]\d):([0-5]\d)\.(\d{3})$/.exec(text)
  if (!m) return null
  const ms = ((Number(m[1] ?? 0) * 60 + Number(m[2])) * 60 + Number(m[3])) * 1000 + Number(m[4])
  return mulDivRound(ms, rate.num, rate.den * 1000)
}

/** Chapters of a range as WebVTT: a cue reaches to the next chapter, the last to the end. */
export function chaptersVtt(
  chapters: readonly { readonly at: Frames; readonly name: string }[],
  length: Frames,
  rate: Rate,
): string {
  const list = [...chapters].sort((a, b) => a.at - b.at)
  const cues = list.map(
    (c, i) =>
      `${i + 1}\n${stamp(c.at, rate)} --> ${stamp(Math.max(c.at + 1, list[i + 1]?.at ?? length), rate)}\n${c.name
        .replace(/\s*\n\s*/g, ' ')
        .replaceAll('&', '&amp;')
        .replaceAll('<', '&lt;')
        .replaceAll('-->', '->')}\n`,
  )
  return `WEBVTT\n\n${cues.join('\n')}`
}

/** Chapters of a range as CSV: name, timecode and frame, from a start. */
export function chaptersCsv(
  chapters: readonly { readonly at: Frames; readonly name: string }[],
  base: TimeBase & { readonly start: Frames },
): string {
  const rows = [...chapters]
    .sort((a, b) => a.at - b.at)
    .map((c) => csvLine([c.name, formatTimecode(base.start + c.at, base), c.at]))
  return `${['name,timecode,frame', ...rows].join('\r\n')}\r\n`
}

/** Reads WebVTT as chapters from the start of a timeline. Names the line that is wrong and keeps the rest. */
export function readVtt(
  text: string,
  given: Rate | null,
  fileName: string,
): { timeline: Timeline; problems: Problem[] } {
  const rate = given ?? makeRate(25)
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/)
  if (!/^WEBVTT(\s|$)/.test(lines[0] ?? ''))
    fail('vtt.header', 'The first line should read WEBVTT.', `${fileName}, line 1`, 'Choose a WebVTT file.')
  const problems: Problem[] = []
  const markers: TimelineMarker[] = []
  let length = 0
  for (let i = 1; i < lines.length; i++) {
    if (!lines[i]!.includes('-->')) continue
    const [from, to] = lines[i]!.split('-->').map((s) => frameOf(s.trim().split(/\s+/)[0] ?? '', rate))
    const name: string[] = []
    const at = i
    while (i + 1 < lines.length && lines[i + 1]!.trim() !== '') name.push(lines[++i]!.trim())
    if (from === null || from === undefined || to === null || to === undefined || to < from) {
      if (problems.length < 200)
        problems.push({
          code: 'vtt.times',
          message: `These times cannot be read: “${lines[at]!.slice(0, 60)}”.`,
          where: `${fileName}, line ${at + 1}`,
          fix: 'Write them as hh:mm:ss.mmm --> hh:mm:ss.mmm.',
        })
      continue
    }
    length = Math.max(length, to)
    markers.push({
      kind: 'chapter',
      at: from,
      frames: to - from,
      name: name
        .join(' ')
        .replace(/<[^>]*>/g, '')
        .replaceAll('&lt;', '<')
        .replaceAll('&gt;', '>')
        .replaceAll('&amp;', '&'),
    })
  }
  return {
    timeline: {
      name: fileName.replace(/\.[^.]*$/, ''),
      rate,
      dropFrame: false,
      start: 0,
      length,
      tracks: [],
      events: [],
      markers,
    },
    problems,
  }
}

export function writeVtt(t: Timeline): { text: string; problems: Problem[] } {
  const { problems, lose } = losses(t.name, 'Use it beside another format.')
  lose(t.events.length, 'vtt.events', 'WebVTT holds chapters only; # events cannot be written.')
  return { text: chaptersVtt(t.markers, t.length, t.rate), problems }
}

/** Chapters as WebVTT (W3C). */
export const vtt: TimelineFormat = {
  name: 'vtt',
  label: 'WebVTT chapters',
  extensions: ['.vtt'],
  holds: 'chapters',
  recognise: (head) => /^WEBVTT(\s|$)/.test(head),
  read: (text, fileName, rate) => readVtt(text, rate, fileName),
  write: (timeline) => writeVtt(timeline),
}
