import type { SoundFacts } from '../../analysis/soundfacts'
import { listed } from '../../text'
import { said, type Measure, type Reading } from '../measure'

const named = (channels: readonly number[]) =>
  `${channels.length === 1 ? 'channel' : 'channels'} ${listed(channels.map((c) => String(c + 1)))}`

/** What is not measured of sound, because some of its channels carry data instead. */
export const unheard = (channels: readonly number[]): Omit<Reading, 'from'> =>
  said(null, `${named(channels)} ${channels.length === 1 ? 'carries' : 'carry'} data, not sound (SMPTE ST 337)`)

/** Left and right, which phase is measured of, as far as they carry data; null where neither does. */
export function codedPair({ coded, pair = [0, 1] }: SoundFacts): Omit<Reading, 'from'> | null {
  const own = coded?.channels.filter((c) => pair.includes(c)) ?? []
  return own.length ? unheard(own) : null
}

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
    return said(channels.length, channels.length ? `data, not sound, in ${named(channels)}` : 'none')
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
      ? said('kept', `kept: ${named(channels)}`)
      : said(
          'broken',
          `what ${named(channels)} ${channels.length === 1 ? 'carries' : 'carry'} does not survive this recipe`,
        )
  },
  words: () => 'none to break, or kept',
}
