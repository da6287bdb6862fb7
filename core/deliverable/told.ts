import { programmeFrames } from '../lineup/lineup'
import type { Told } from '../lineup/section'
import { plural } from '../text'
import { formatTimecode } from '../time/timecode'
import type { FrozenDeliverable } from './sheet'

/** What line-up says of the programme behind it: what is known of it, in the order it is read. */
export function toldOf({ timeline, region, outlet, output, date }: FrozenDeliverable): Told {
  const papers = Object.entries(region.metadata).filter(([, value]) => value.trim() !== '')
  const sound = output.audio
  const lines: [string, string][] = [
    ...papers.sort(([a], [b]) => Number(b === 'production number') - Number(a === 'production number')),
    ['duration', formatTimecode(programmeFrames(output), timeline)],
    ['sound', sound ? `${plural(sound.tracks ?? sound.channels, 'track')}, ${sound.bitDepth} bit` : 'none'],
    ['for', outlet.name],
    ...(date ? [['date', date] satisfies [string, string]] : []),
  ]
  return { show: timeline.show, title: region.name, lines: lines.slice(0, 6) }
}
