import { programmeFrames } from '../lineup/lineup'
import type { Told } from '../lineup/section'
import { fileBase } from '../recipe/output'
import { filledIn } from '../split/papers'
import { plural } from '../text'
import { formatTimecode } from '../time/timecode'
import type { FrozenDeliverable } from './sheet'

/** What line-up says of the programme behind it: what is known of it, what a recipient asks on a clock first. */
export function toldOf({ timeline, region, outlet, output, date }: FrozenDeliverable): Told {
  const papers = Object.entries(filledIn(region.metadata))
  const sound = output.audio
  const number = region.metadata['production number']
  const lines: [string, string][] = [
    ...(number ? [['production number', number] satisfies [string, string]] : []),
    ['duration', formatTimecode(programmeFrames(output), fileBase({ output, timeline }))],
    ['sound', sound ? `${plural(sound.tracks ?? sound.channels, 'track')}, ${sound.bitDepth} bit` : 'none'],
    ['for', outlet.name],
    ...(date ? [['date', date] satisfies [string, string]] : []),
    ...papers.filter(([field]) => field !== 'production number'),
  ]
  return { show: timeline.show, title: region.name, lines: lines.slice(0, 6) }
}
