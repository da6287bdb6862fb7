import type { ShownTimeline } from '../../contract/timelines'
import { codecLabel } from '../../core/codec/registry'
import { closedChannels, closedText } from '../../core/codec/sound'
import type { MediaInfo } from '../../core/media/media'
import type { Problem } from '../../core/problem'
import { canDownmix } from '../../core/sound/downmix'
import { frontPair, layoutTaken, mixesIn, saidLayout, sourceChannels, unnamed } from '../../core/sound/layout'
import { soundRate } from '../../core/sound/tracks'
import { listed } from './text'

// Which sound of a timeline can be heard here.

type Sounding = Pick<ShownTimeline, 'assembled' | 'info'>

/** Why channels are not heard, by channel; of a list it is said where it takes from them. */
export const unheard = (t: Sounding): ReadonlyMap<number, Problem> => closedChannels(t.assembled ? [] : t.info.audio)

/** The channels that can be heard, from 0: left and right first, wherever they stand. */
export function heardChannels(t: Sounding): number[] {
  const closed = unheard(t)
  const front = frontPair(layoutTaken(t.info.audio))
  const all = Array.from({ length: sourceChannels(t.info) }, (_, c) => c)
  const ordered = [...front.filter((c) => c < all.length), ...all.filter((c) => !front.includes(c))]
  return ordered.filter((c) => !closed.has(c))
}

/** What of a timeline can be heard. */
export interface Hearable {
  /** Channels from 0: left and right first, wherever they stand. */
  readonly open: readonly number[]
  /** Those heard when nothing else is chosen: a mix in surround but for its LFE, else left and right. */
  readonly usual: readonly number[]
}

export function hearable(t: Sounding): Hearable {
  const open = heardChannels(t)
  const layout = layoutTaken(t.info.audio)
  const [mix] = layout ? mixesIn(layout) : []
  // a downmix leaves the LFE out
  const heard = mix?.filter((c) => c.name !== 'LFE') ?? []
  const whole = heard.length > 2 && canDownmix(heard.map((c) => c.name).join(' ')) ? heard.map((c) => c.at) : []
  return { open, usual: whole.length && whole.every((c) => open.includes(c)) ? whole : open.slice(0, 2) }
}

/** What a channel is called: its number, with what its file says it is. */
export function channelText({ info }: Sounding, channel: number): string {
  const name = saidLayout(info.audio)?.split(' ')[channel]
  return `Channel ${channel + 1}${name && name !== unnamed ? ` (${name})` : ''}`
}

/**
 * What sound there is: `2 × PCM and 6 × ac-3 48 kHz`, without its kinds where these are those of a list's sources; of
 * more than two channels what they are, where something says it.
 */
export function soundText({ audio }: Pick<MediaInfo, 'audio'>, kinds: boolean): string {
  if (audio.length === 0) return 'none'
  const rate = `${soundRate(audio) / 1000} kHz`
  const each = new Map<string, number>()
  for (const t of audio) each.set(t.codec, (each.get(t.codec) ?? 0) + t.channels)
  const named = [...each].map(([codec, n]) => `${n} × ${kinds ? codecLabel(codec) : ''}`.trimEnd())
  const said = sourceChannels({ audio }) > 2 ? saidLayout(audio) : null
  return `${listed(named)} ${rate}${said ? `, ${said.replaceAll(unnamed, '–')}` : ''}`
}

/** What is said of channels that are not heard; null where all are. */
export const unheardText = (t: Sounding): string | null => closedText(t.assembled ? [] : t.info.audio)
