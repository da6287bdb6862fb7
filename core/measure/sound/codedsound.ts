import type { PairFacts, SoundFacts } from '../../analysis/soundfacts'
import { channelsText } from '../../text'
import { said, type Measure, type Reading } from '../measure'

/** What is not measured of sound, because some of its channels carry data instead. */
export const unheard = (channels: readonly number[]): Omit<Reading, 'from'> =>
  said(null, `${channelsText(channels)} ${channels.length === 1 ? 'carries' : 'carry'} data, not sound (SMPTE ST 337)`)

/** The pairs that carry sound; why not, where data is in the place of all of them. */
export function pairsHeard({ coded, pairs }: SoundFacts): readonly PairFacts[] | Omit<Reading, 'from'> {
  const data = coded?.channels ?? []
  const heard = pairs.filter((pair) => !pair.channels.some((c) => data.includes(c)))
  return heard.length || data.length === 0 ? heard : unheard(data)
}

/** Where it is, behind what is found in a pair, of more than one. */
export const inPair = ({ pairs }: SoundFacts, { channels }: PairFacts): string =>
  pairs.length > 1 ? ` in ${channelsText(channels)}` : ''

/** Channels that carry data in the place of sound (SMPTE ST 337), counted. */
export const codedSound: Measure = {
  name: 'coded-sound',
  label: 'Channels of data',
  group: 'sound',
  counts: true,
  places: ({ trouble }) => trouble?.data ?? [],
  read({ sound }) {
    if (!sound) return null
    const { channels } = sound.coded ?? { channels: [] }
    const text = channels.length ? `data, not sound, in ${channelsText(channels)}` : 'none'
    return { ...said(channels.length, text), faults: channels.map((c) => channelsText([c])) }
  },
}

/** Whether data in the place of sound comes out of a recipe as it was: any change of a sample breaks it. */
export const codedKept: Measure = {
  name: 'coded-kept',
  label: 'Data in sound',
  group: 'sound',
  counts: true,
  stage: 'before',
  read({ sound, soundKept, heard }) {
    if (heard?.route.length === 0) return said('none', 'no sound is written')
    if (!sound || soundKept === undefined) return null
    const { channels } = sound.coded ?? { channels: [] }
    if (channels.length === 0) return said('none', 'the source has none')
    return soundKept
      ? said('kept', `kept: ${channelsText(channels)}`)
      : said(
          'broken',
          `what ${channelsText(channels)} ${channels.length === 1 ? 'carries' : 'carry'} does not survive this recipe`,
        )
  },
  words: () => 'none to break, or kept',
}
