import type { Problem } from '../../problem'
import { plural } from '../../text'
import { rateLabel, sameRate } from '../../time/rate'
import { formatTimecode } from '../../time/timecode'
import type { Timeline } from '../model'
import { baseOf } from './names'
import type { Choice, MediaFile, Probe, Source, Use } from './source'

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

/** The trouble of a source that has a file: another rate, too short, one of several places or files. */
export function stateOf(
  t: Timeline,
  uses: readonly Use[],
  { used, short, ambiguous, twice }: Choice,
  lookedFor: string,
  where: string,
): Pick<Source, 'state' | 'problem'> {
  const v = used.info.video[0]
  const rate = uses[0]!.clip.source!.rate
  const name = baseOf(used.file.path)
  const pictures = uses.some((u) => u.kind === 'video')
  if (pictures && v && v.rateStated !== false && (!sameRate(v.rate, rate) || !sameRate(v.rate, t.rate)))
    return {
      state: 'rate',
      problem: {
        code: 'link.rate',
        message:
          `“${name}” runs at ${rateLabel(v.rate)} frames a second, the timeline at ` +
          `${rateLabel(t.rate)}; each frame shows the one that is due at its time.`,
        where,
        fix: 'Link a file at the timeline’s rate, or accept it with a waiver.',
      },
    }
  if (short > 0)
    return {
      state: 'short',
      problem: {
        code: 'link.short',
        message: `“${name}” lacks up to ${plural(short, 'frame')} of what the timeline takes from it.`,
        where,
        fix: 'It may be another take or a shorter copy: choose another file.',
      },
    }
  if (twice)
    return {
      state: 'twice',
      problem: {
        code: 'link.twice',
        message: `The timecode of “${name}” jumps: what the timeline takes is there twice. The first is taken.`,
        where,
        fix: 'Look at the pictures; where the other is meant, cut the file in two at its jump and choose that part.',
      },
    }
  if (ambiguous)
    return {
      state: 'ambiguous',
      problem: {
        code: 'link.ambiguous',
        message: `Several files answer to ${lookedFor}; “${used.file.path}” is taken.`,
        where,
        fix: 'Choose the right one.',
      },
    }
  return { state: 'linked', problem: null }
}

/** The raster and sample rate most of the timeline is in; sources in another are marked. */
export async function compareAlike(
  t: Timeline,
  sources: readonly Source[],
  look: Probe,
  fileName: string,
): Promise<Source[]> {
  const infos = await Promise.all(sources.map((s) => (s.linked ? look(s.linked) : null)))
  const weight = (s: Source, kind: 'video' | 'audio') =>
    s.events.reduce(
      (n, i) => n + (t.events[i]!.kind === kind ? t.events[i]!.record.out - t.events[i]!.record.in : 0),
      0,
    )
  const raster = most(
    infos.map((x, i) =>
      x?.video[0] ? [`${x.video[0].width}×${x.video[0].height}`, weight(sources[i]!, 'video')] : null,
    ),
  )
  const rate = most(
    infos.map((x, i) => (x?.audio[0] ? [String(x.audio[0].sampleRate), weight(sources[i]!, 'audio')] : null)),
  )
  return sources.map((s, i) => {
    if (s.state !== 'linked' && s.state !== 'ambiguous') return s
    const at = `${fileName}, ${formatTimecode(t.start + t.events[s.events[0]!]!.record.in, t)}`
    const v = infos[i]?.video[0]
    const a = infos[i]?.audio[0]
    if (v && weight(s, 'video') > 0 && `${v.width}×${v.height}` !== raster)
      return {
        ...s,
        state: 'raster',
        problem: {
          code: 'link.raster',
          message:
            `“${baseOf(s.linked!.path)}” is ${v.width}×${v.height}, the timeline ${raster}; it is ` +
            'fitted with bars where needed.',
          where: at,
          fix: 'Link a file in the timeline’s raster, or accept it with a waiver.',
        },
      }
    if (a && weight(s, 'audio') > 0 && String(a.sampleRate) !== rate)
      return {
        ...s,
        state: 'sound-rate',
        problem: {
          code: 'link.sound-rate',
          message:
            `The sound of “${baseOf(s.linked!.path)}” runs at ${a.sampleRate} Hz, the timeline at ` +
            `${rate} Hz; it is brought to that.`,
          where: at,
          fix: 'Link sound at the timeline’s rate, or accept it with a waiver.',
        },
      }
    return s
  })
}

/** The word that carries the most frames. */
function most(list: readonly ([string, number] | null)[]): string {
  const sums = new Map<string, number>()
  for (const x of list) if (x) sums.set(x[0], (sums.get(x[0]) ?? 0) + x[1])
  return [...sums].sort((a, b) => b[1] - a[1])[0]?.[0] ?? ''
}
