import type { Problem } from '../../problem'
import { fail } from '../../problem'
import type { Rate } from '../../time/rate'
import { readCpl, writeCpl } from './cpl'
import { readTimelineCsv, writeTimelineCsv } from './csv'
import { readEdl, writeEdl } from './edl'
import type { Timeline } from '../model'
import { readOtio, writeOtio } from './otio'
import { readVtt, writeVtt } from './vtt'

/** The interchange formats that are read and written. */
export const formats = ['edl', 'otio', 'cpl', 'csv', 'vtt'] as const
export type Format = (typeof formats)[number]

/**
 * What an interchange file says. `original` is what it was read from, where the format has parts the model does not
 * hold.
 */
export interface Interchange {
  readonly format: Format
  readonly timeline: Timeline
  readonly problems: readonly Problem[]
  readonly original?: unknown
}

export const extensionOfFormat: Record<Format, string> = {
  edl: '.edl',
  otio: '.otio',
  cpl: '.xml',
  csv: '.csv',
  vtt: '.vtt',
}

/** Which format a text is, by what it says; null when it is none. */
export function formatOf(text: string): Format | null {
  const head = text
    .slice(0, 65_536)
    .replace(/^\uFEFF/, '')
    .trimStart()
  if (head.startsWith('{')) return /"OTIO_SCHEMA"/.test(text) ? 'otio' : null
  if (head.startsWith('<')) return /<(\w+:)?CompositionPlaylist[\s>/]/.test(head) ? 'cpl' : null
  if (/^WEBVTT(\s|$)/.test(head)) return 'vtt'
  if (/^(TITLE:|FCM:)/im.test(head) || /^\d{1,6}\s+\S+\s+\S+\s+(C|D|W\d|K)\b/m.test(head)) return 'edl'
  if (/^[^\n]*\brecord in\b[^\n]*\brecord out\b/i.test(head)) return 'csv'
  return null
}

/**
 * Reads any of the formats. `rate` is for those that do not carry one; without it they are read at 25, or at 30000/1001
 * when they say drop-frame.
 */
export function readInterchange(text: string, fileName: string, rate: Rate | null = null): Interchange {
  const format =
    formatOf(text) ??
    fail(
      'timeline.format',
      'This is none of the interchange files that can be read here.',
      fileName,
      'Bring in an edit decision list, OpenTimelineIO JSON, a composition playlist, WebVTT chapters, or CSV with the columns “record in” and “record out”.',
    )
  switch (format) {
    case 'edl':
      return { format, ...readEdl(text, rate, fileName) }
    case 'otio':
      return { format, ...readOtio(text, fileName) }
    case 'cpl':
      return { format, ...readCpl(text, fileName) }
    case 'csv':
      return { format, ...readTimelineCsv(text, rate, fileName) }
    case 'vtt':
      return { format, ...readVtt(text, rate, fileName) }
  }
}

/** Writes a timeline in a format; `problems` say what that format cannot hold. */
export function writeInterchange(
  read: Pick<Interchange, 'timeline' | 'original'> & { readonly format?: Format },
  format: Format,
): { text: string; problems: Problem[] } {
  const t = read.timeline
  switch (format) {
    case 'edl':
      return writeEdl(t)
    case 'otio':
      return writeOtio(t, read.format === 'otio' ? read.original : undefined)
    case 'cpl':
      return writeCpl(t)
    case 'csv':
      return writeTimelineCsv(t)
    case 'vtt':
      return writeVtt(t)
  }
}
