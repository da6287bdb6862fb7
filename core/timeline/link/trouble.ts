import { closedChannels } from '../../codec/sound'
import { grouped } from '../../group'
import { aspectValue, widerThan } from '../../media/aspect'
import type { MediaInfo, VideoInfo } from '../../media/media'
import type { Problem } from '../../problem'
import { sourceChannels } from '../../sound/layout'
import { soundRate } from '../../sound/tracks'
import { plural } from '../../text'
import { rateLabel, sameRate } from '../../time/rate'
import { soundRoute, type Timeline } from '../model'
import { baseOf } from './names'
import { framesGiven, mostly } from './frames'
import { fileKey, type MediaFile, type Placed, type Source, type SourceTrouble } from './source'

// What is wrong with the media of a source, in words.

/** That a source was not found. */
export function missing(
  about: Pick<Source, 'events' | 'lookedFor'>,
  candidates: readonly MediaFile[],
  where: string,
): Problem {
  return {
    code: 'link.missing',
    message:
      `No media was found for ${plural(about.events.length, 'event')}; looked for ` +
      `${about.lookedFor || 'a file without a name'}.`,
    where,
    fix: candidates.length
      ? 'Files whose timecode fits are offered; choose one, or name the folder where the media is.'
      : 'Put the media below a storage root, or name the folder where it is.',
  }
}

/** What most of a timeline is, which sources may differ from. */
export interface Usual {
  readonly raster: VideoInfo | null
  readonly sampleRate: number | null
}

/** A raster in words: with the shape of its pixels, where that is no square. */
const rasterText = (v: VideoInfo) =>
  `${v.width}×${v.height}${aspectValue(v.pixelAspect) === 1 ? '' : ` of ${v.pixelAspect} pixels`}`
const isRaster = (v: VideoInfo, raster: VideoInfo) =>
  v.width === raster.width && v.height === raster.height && widerThan(v.pixelAspect, raster.pixelAspect) === 1
const sampleRateOf = ({ audio }: MediaInfo) => (audio.length ? soundRate(audio) : undefined)

/** The raster, by the file that most of it comes from, and the sample rate that most of a timeline is in. */
export function usualOf<L>(
  t: Timeline,
  links: Parameters<typeof framesGiven<L, MediaInfo | null>>[1],
  infoOf: (link: L) => MediaInfo | null,
): Usual {
  const seen = framesGiven(t, links, 'video', infoOf)
  const raster = mostly(seen, (info) => info?.video[0] && rasterText(info.video[0]))
  const inIt = [...seen].filter(([info]) => info?.video[0] && rasterText(info.video[0]) === raster)
  const [most] = inIt.sort((a, b) => b[1] - a[1])
  return {
    raster: most?.[0]?.video[0] ?? null,
    sampleRate: mostly(framesGiven(t, links, 'audio', infoOf), (info) => info && sampleRateOf(info)),
  }
}

/** The uses of a source that one file serves. */
interface OfFile {
  readonly name: string
  readonly info: MediaInfo
  readonly uses: readonly Placed[]
  /** Those of its pictures, and of its sound. */
  readonly seen: readonly Placed[]
  readonly heard: readonly Placed[]
}

interface Trouble extends Omit<SourceTrouble, 'events'> {
  /** The uses that it is a trouble to. */
  readonly uses: readonly Placed[]
}

/**
 * All that is wrong with the media of a source, the gravest first: of each of the files that answer to it. `answering`:
 * what several answer to that would have done as well; `where` names an event.
 */
export function troublesOf(
  t: Timeline,
  uses: readonly Placed[],
  usual: Usual,
  answering: string | null,
  where: (event: number) => string,
): SourceTrouble[] {
  const files = [...grouped(uses, (u) => fileKey(u.link.file)).values()].map((own): OfFile => {
    const [{ link, info }] = own as [Placed]
    const of = (kind: Placed['kind']) => own.filter((u) => u.kind === kind)
    return { name: baseOf(link.file.path), info, uses: own, seen: of('video'), heard: of('audio') }
  })
  const each = (of: (file: OfFile) => Trouble | null) =>
    files.flatMap((file) => {
      const found = of(file)
      if (!found) return []
      const events = [...new Set(found.uses.map((u) => u.event))]
      return [{ state: found.state, problem: { ...found.problem, where: where(events[0]!) }, events }]
    })
  return [
    ...each((f) => otherRate(t, f)),
    ...each(tooShort),
    ...each(countedTwice),
    ...each((f) => otherRaster(f, usual)),
    ...each((f) => otherSampleRate(f, usual)),
    ...each((f) => unheard(t, f)),
    ...each((f) => fewerChannels(t, f)),
    ...each((f) => someChannels(t, f)),
    ...(answering ? each((f) => (f === files[0] ? severalAnswer(f, answering) : null)) : []),
  ]
}

function otherRate(t: Timeline, { name, info, seen }: OfFile): Trouble | null {
  const [v] = info.video
  if (!v || seen.length === 0) return null
  const { rate } = seen[0]!.clip.source!
  if (v.rateStated === false || (sameRate(v.rate, rate) && sameRate(v.rate, t.rate))) return null
  return {
    state: 'rate',
    uses: seen,
    problem: {
      code: 'link.rate',
      message:
        `“${name}” runs at ${rateLabel(v.rate)} frames a second, the timeline at ` +
        `${rateLabel(t.rate)}; each frame shows the one that is due at its time.`,
      fix: 'Link a file at the timeline’s rate, or accept it with a waiver.',
    },
  }
}

function tooShort({ name, uses }: OfFile): Trouble | null {
  const lacking = Math.max(...uses.map((u) => u.lacking))
  if (lacking === 0) return null
  return {
    state: 'short',
    uses: uses.filter((u) => u.lacking > 0),
    problem: {
      code: 'link.short',
      message: `“${name}” lacks up to ${plural(lacking, 'frame')} of what the timeline takes from it.`,
      fix: 'It may be another take or a shorter copy: choose another file.',
    },
  }
}

function countedTwice({ name, uses }: OfFile): Trouble | null {
  if (!uses.some((u) => u.twice)) return null
  return {
    state: 'twice',
    uses: uses.filter((u) => u.twice),
    problem: {
      code: 'link.twice',
      message: `The timecode of “${name}” jumps: what the timeline takes is there twice. The first is taken.`,
      fix: 'Look at the pictures; where the other is meant, cut the file in two at its jump and choose that part.',
    },
  }
}

const severalAnswer = ({ uses }: OfFile, answering: string): Trouble => ({
  state: 'ambiguous',
  uses,
  problem: {
    code: 'link.ambiguous',
    message: `Several files answer to ${answering}; “${uses[0]!.link.file.path}” is taken.`,
    fix: 'Choose the right one.',
  },
})

function otherRaster({ name, info, seen }: OfFile, { raster }: Usual): Trouble | null {
  const [own] = info.video
  if (seen.length === 0 || !own || !raster || isRaster(own, raster)) return null
  return {
    state: 'raster',
    uses: seen,
    problem: {
      code: 'link.raster',
      message:
        `“${name}” is ${rasterText(own)}, the timeline ${rasterText(raster)}; ` +
        'it is fitted with bars where needed.',
      fix: 'Link a file in the timeline’s raster, or accept it with a waiver.',
    },
  }
}

function otherSampleRate({ name, info, heard }: OfFile, { sampleRate }: Usual): Trouble | null {
  const own = sampleRateOf(info)
  if (heard.length === 0 || !own || own === sampleRate) return null
  return {
    state: 'sound-rate',
    uses: heard,
    problem: {
      code: 'link.sound-rate',
      message: `The sound of “${name}” runs at ${own} Hz, the timeline at ${sampleRate} Hz; it is brought to that.`,
      fix: 'Link sound at the timeline’s rate, or accept it with a waiver.',
    },
  }
}

/** That sound which is taken of a source is read nowhere here. */
function unheard(t: Timeline, { name, info, heard }: OfFile): Trouble | null {
  const closed = closedChannels(info.audio)
  if (closed.size === 0) return null
  const channels = sourceChannels(info)
  const lost = (u: Placed) =>
    soundRoute(t, t.events[u.event]!, channels).flatMap(([c]) => closed.get(c % channels) ?? [])
  const uses = heard.filter((u) => lost(u).length > 0)
  if (!uses[0]) return null
  return {
    state: 'unheard',
    uses,
    problem: {
      code: 'link.unheard',
      message: `Sound that is taken from “${name}” is not read. ${lost(uses[0])[0]!.message}`,
      fix: 'Link a file whose sound is read here, or deliver those stretches without sound.',
    },
  }
}

/** Uses of a file that lie beside each other, and the channels, from 0, that they take of it. */
function takenTogether(
  t: Timeline,
  uses: readonly Placed[],
  channels: number,
): { readonly own: readonly Placed[]; readonly taken: readonly number[] }[] {
  const eventOf = (u: Placed) => t.events[u.event]!
  const together = grouped(uses, (u) => `${eventOf(u).record.in}-${eventOf(u).record.out}`)
  return [...together.values()].map((own) => {
    const taken = new Set(own.flatMap((u) => soundRoute(t, eventOf(u), channels).map(([c]) => c)))
    return { own, taken: [...taken].sort((a, b) => a - b) }
  })
}

/**
 * That a source lacks sound channels which are taken of it. Tracks beside each other that take all there are, such as
 * the third and fourth of a pair, mean those.
 */
function fewerChannels(t: Timeline, { name, info, heard }: OfFile): Trouble | null {
  if (heard.length === 0) return null
  const channels = sourceChannels(info)
  const found = (message: string, uses = heard): Trouble => ({
    state: 'channels',
    uses,
    problem: {
      code: 'link.channels',
      message,
      fix: 'Link the file that has them, name the channels in the list, or accept it with a waiver.',
    },
  })
  if (channels === 0) return found(`“${name}” has no sound, which the timeline takes from it; it is silent there.`)
  const counted = takenTogether(t, heard, channels).filter(
    ({ taken }) => taken.some((c) => c >= channels) && new Set(taken.map((c) => c % channels)).size < channels,
  )
  if (counted.length === 0) return null
  const lacking = new Set(counted.flatMap(({ taken }) => taken.filter((c) => c >= channels)))
  const each = [...lacking].sort((a, b) => a - b).map((c) => `${(c % channels) + 1} in place of ${c + 1}`)
  return found(
    `“${name}” has ${plural(channels, 'sound channel')}, the timeline takes others of it: ` +
      `heard is channel ${each.join(', ')}.`,
    counted.flatMap(({ own }) => own),
  )
}

/** That tracks take one channel each of several, where the list does not say so: they may be meant to carry all. */
function someChannels(t: Timeline, { name, info, heard }: OfFile): Trouble | null {
  const channels = sourceChannels(info)
  const unnamed = heard.filter((u) => !t.events[u.event]!.channels)
  const some = takenTogether(t, unnamed, channels).filter(
    ({ taken }) => taken.length < channels && taken.every((c) => c < channels),
  )
  if (!some[0]) return null
  const taken = some[0].taken.map((c) => c + 1)
  return {
    state: 'some-channels',
    uses: some.flatMap(({ own }) => own),
    problem: {
      code: 'link.some-channels',
      message:
        `“${name}” has ${channels} sound channels, of which only ${taken.join(', ')} ` +
        `${taken.length > 1 ? 'are' : 'is'} heard: each track of this list takes one.`,
      fix: 'Where its tracks carry all of them, say so at Sound tracks, or use a list that names the channels.',
    },
  }
}
