import { fail, type Problem } from '../../problem'
import { listed } from '../../text'
import type { Rate } from '../../time/rate'
import { cpl } from './cpl/format'
import { csv } from './csv'
import { edl } from './edl/format'
import type { ReadTimeline, TimelineFormat } from './format'
import { withoutOverlaps } from '../overlap'
import { losses } from './losses'
import { otio } from './otio/format'
import { vtt } from './vtt'

/** Interchange formats that are read and written: a new one is its file and its line here. */
export const formats: TimelineFormat[] = [edl, otio, cpl, csv, vtt]

/** What an interchange file says, and in which format it does. */
export interface Interchange extends ReadTimeline {
  readonly format: string
}

/** The format a text is in, by what it says; null when it is none. */
export function formatOf(text: string): TimelineFormat | null {
  const head = text
    .slice(0, 65_536)
    .replace(/^\uFEFF/, '')
    .trimStart()
  return formats.find((f) => f.recognise(head, text)) ?? null
}

/** The format a file's name says it is in; null when it is none. */
export function formatNamed(fileName: string): TimelineFormat | null {
  const lower = fileName.toLowerCase()
  return formats.find((f) => f.extensions.some((e) => lower.endsWith(e))) ?? null
}

/** Reads any of the formats. */
export function readInterchange(text: string, fileName: string, rate: Rate | null = null): Interchange {
  const format =
    formatOf(text) ??
    fail(
      'timeline.format',
      'This is none of the interchange files that can be read here.',
      fileName,
      `Bring in ${listed(
        formats.map((f) => f.label),
        'or',
      )}.`,
    )
  return { format: format.name, ...format.read(text, fileName, rate) }
}

/** Writes a timeline in the format of a name; `problems` say what that format cannot hold. */
export function writeInterchange(
  read: Pick<Interchange, 'timeline' | 'original'> & { readonly format?: string },
  name: string,
): { text: string; problems: Problem[] } {
  const format =
    formats.find((f) => f.name === name) ??
    fail(
      'convert.format',
      `There is no format called “${name}”.`,
      name,
      `The formats are: ${formats.map((f) => f.name).join(', ')}.`,
    )
  const own = read.format === name ? read.original : undefined
  if (!format.sequential || own !== undefined) return format.write(read.timeline, own)
  const { events, cut } = withoutOverlaps(read.timeline.events)
  const { text, problems } = format.write({ ...read.timeline, events })
  const said = losses(read.timeline.name, 'Look at these places; what is seen and heard is the same.')
  said.lose(cut, 'convert.overlap', 'Tracks of this format lie flat: # events are cut to what is seen of them.')
  return { text, problems: [...said.problems, ...problems] }
}
