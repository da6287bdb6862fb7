import type { OwnSound } from '../../analysis/ownsound'
import { channelsText, listed } from '../../text'
import { said, tenths, type Measure, type Reading } from '../measure'

const time = (seconds: number) => `${seconds.toFixed(1)} s`

/** Rounded down: what is almost alike is not the same. */
const likenessText = (likeness: number) => `likeness ${(Math.floor(Math.max(0, likeness) * 100) / 100).toFixed(2)}`

function ownText(own: Extract<OwnSound, { is: 'own' }>): string {
  if (own.by === 'likeness') return `the timeline’s own (${likenessText(own.likeness)})`
  return own.by === 'bytes' ? 'the source’s own, as it is coded' : 'the timeline’s own, sample by sample'
}

function otherText({ channels, where, as, likeness }: Extract<OwnSound, { is: 'other' }>): string {
  const stretches = where.slice(0, 3).map((r) => `${time(r.in)} to ${time(r.out)}`)
  const at = where.length > 3 ? stretches.join(', ') : listed(stretches)
  const more = where.length > 3 ? ` and ${where.length - 3} more` : ''
  const what =
    as === 'turned over'
      ? ', turned over'
      : as
        ? `: ${channelsText([as.channel])} has what belongs in ${channelsText([as.holds])}`
        : ''
  const like = likeness === undefined || as ? '' : ` (${likenessText(likeness)}; 0.50 at least)`
  return `not the timeline’s own in ${channelsText(channels)}, ${at}${more}${what}${like}`
}

function read(own: OwnSound): Omit<Reading, 'from'> {
  switch (own.is) {
    case 'own':
      return said('own', ownText(own))
    case 'shifted':
      return said('shifted', `${Math.abs(own.late * 1000).toFixed(1)} ms ${own.late > 0 ? 'late' : 'early'}`)
    case 'level': {
      const off = `${tenths(Math.abs(own.decibels), 'dB')} ${own.decibels > 0 ? 'louder' : 'softer'}`
      return said('level', `${off} than the timeline’s own in ${channelsText([own.channel])}`)
    }
    case 'other':
      return { ...said('other', otherText(own)), where: own.where }
  }
}

/** Whether the sound of a written file is the timeline's own, and in its place. */
export const ownSound: Measure = {
  name: 'own-sound',
  label: 'Sound in place',
  group: 'sound',
  stage: 'written',
  read: ({ ownSound: own }) => (own === undefined ? null : own === null ? said('none', 'no sound') : read(own)),
  words: () => 'the timeline’s own',
}
