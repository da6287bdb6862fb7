import type { MediaInfo } from '../media/media'
import type { Problem } from '../problem'
import { canDownmix, downmixChannels, type Downmix } from '../sound/downmix'
import { layoutOf, layoutTaken, mixesIn, routeOf, saidLayout, sourceChannels } from '../sound/layout'
import { plural } from '../text'
import type { RecipeSettings } from './settings'

// What a file takes of a source's sound, and what becomes of its channels.

/** Channels taken, and what is written of them. */
export interface SoundTaken {
  /** Source channels from 0, in order; −1 is silence. */
  readonly route: readonly number[]
  readonly written: Written
}

/** Channels of a file, and what they are. */
export interface Written {
  readonly channels: number
  readonly layout: string | null
  /** What they are brought together from; absent where they are as they are taken. */
  readonly downmix?: Downmix
}

/** The widest mix of several that can be brought together, by its channels, in words. */
function asOfOne(layout: string | null, route: readonly number[]): string {
  const mixes = (layout ? mixesIn(layout) : []).filter((mix) => canDownmix(mix.map((c) => c.name).join(' ')))
  const [mix] = mixes.sort((a, b) => b.length - a.length)
  return mix ? `, as ${mix.map((c) => route[c.at]! + 1).join(' ')}` : ''
}

/** A file with what is written of its sound. */
interface WithSound {
  readonly audio: (Written & { readonly codec: string }) | null
}

/** What settings take of a source; what cannot be, or is good to know, goes to `problems` and `notes`. */
export function soundTaken(
  settings: Pick<RecipeSettings, 'channels' | 'downmix'>,
  source: Pick<MediaInfo, 'audio'>,
  problems: Problem[],
  notes: string[],
): SoundTaken {
  const there = sourceChannels(source)
  const route = routeOf(settings.channels, there)
  if (route.some((c) => c >= there))
    problems.push({
      code: 'recipe.channel',
      message: `The source has ${plural(there, 'sound channel')}; channel ${Math.max(...route) + 1} is asked for.`,
      fix: 'Choose other channels.',
    })
  const layout = layoutTaken(source.audio, route)
  if (layout && route.length > 2 && !saidLayout(source.audio, route))
    notes.push(`Nothing says which of its ${route.length} channels is which: they are taken as ${layout}.`)
  const as = { route, written: { channels: route.length, layout } }
  if (settings.downmix === 'none' || route.length === 0) return as
  // two of a mix are no pair where they are said to be others of it
  const said = route.length === 2 ? saidLayout(source.audio, route) : null
  const from = said && canDownmix(said) ? said : layout
  if (from === null || !canDownmix(from)) {
    const what = from ? `are ${from}` : 'are not named'
    problems.push({
      code: 'recipe.downmix',
      message: `Its ${route.length} channels ${what}: that is no mix to bring together.`,
      fix: `Choose the channels of one mix${asOfOne(from, route)}, or leave the downmix out.`,
    })
    return as
  }
  const channels = downmixChannels(settings.downmix)
  // what is there already stays as it is
  if (layoutOf(channels) === from) return as
  notes.push(
    `${from} is brought together to ${settings.downmix} (ITU-R BS.775)` +
      `${from.split(' ').includes('LFE') ? '; the LFE is left out' : ''}.`,
  )
  return { route, written: { channels, layout: layoutOf(channels), downmix: { to: settings.downmix, from } } }
}

/** What a file's channels are heard as: sound that is coded for it has the order of its count, other keeps its own. */
export function heardLayout(
  { audio }: WithSound,
  source: Pick<MediaInfo, 'audio'>,
  route: readonly number[],
): string | null {
  const kept = audio !== null && !audio.downmix && (audio.codec === 'pcm' || audio.layout !== null)
  return kept ? layoutTaken(source.audio, route) : layoutOf(audio?.channels ?? 0)
}

/** What a file's channels are said to be, of those taken as they are by the source; null where nothing says it. */
export const namedLayout = (
  { audio }: WithSound,
  source: Pick<MediaInfo, 'audio'>,
  route: readonly number[],
): string | null => (audio?.downmix ? layoutOf(audio.channels) : saidLayout(source.audio, route))
