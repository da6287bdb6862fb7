import path from 'node:path'
import { xxhash64 } from 'hash-wasm'
import { grouped } from '../../core/group'
import type { MediaInfo } from '../../core/media/media'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { Linking, SplitTimeline } from '../../core/split/timeline'
import { assemblyInfo, makeAssembly, type FrozenAssembly } from '../../core/timeline/assembly/assembly'
import { ProblemError } from '../../core/problem'
import { rateUnknown } from '../../core/timeline/formats/rate'
import { formats, readInterchange, type Interchange } from '../../core/timeline/formats/registry'
import { linkTimeline } from '../../core/timeline/link/link'
import { fileKey, noChoices, type LinkChoices, type MediaFile } from '../../core/timeline/link/source'
import type { Timeline } from '../../core/timeline/model'
import { rateText, sameRate, type Rate } from '../../core/time/rate'
import type { MediaIndex } from './mediaindex'

/** A timeline linked: what it is as media, and what identifies it. */
export interface Linked {
  readonly linking: Linking
  readonly info: MediaInfo
  readonly fingerprint: Fingerprint
}

/** Looks for the media of a timeline below the roots, or among some files, and puts the assembly together. */
export async function linkMedia(
  index: MediaIndex,
  model: Timeline,
  file: string,
  choices: LinkChoices,
  files: readonly MediaFile[] | null = null,
): Promise<Linked> {
  const infos = new Map<string, MediaInfo | null>()
  const probe = async (f: MediaFile) => {
    const info = await index.probe(f)
    infos.set(fileKey(f), info)
    return info
  }
  const linking = await linkTimeline(model, files ?? (await index.files()), probe, choices, file)
  const assembly = makeAssembly(model, linking, (f) => infos.get(fileKey(f)) ?? null)
  const used = assembly.sources.map((s) => infos.get(fileKey(s))!)
  const sources = await Promise.all(
    assembly.sources.map(async (s) => ({ ...s, fingerprint: await index.fingerprint(s) })),
  )
  const frozen: FrozenAssembly = { ...assembly, sources }
  const size = sources.reduce((n, s) => n + s.fingerprint.size, 0)
  const content = await xxhash64(
    JSON.stringify({
      events: model.events,
      tracks: model.tracks,
      soundTracks: model.soundTracks,
      rate: model.rate,
      start: model.start,
      links: frozen.links,
      raster: frozen.raster,
      wider: frozen.wider,
      resampled: frozen.resampled,
      sources: sources.map((s) => s.fingerprint.content),
    }),
  )
  return {
    linking: { assembly: frozen, infos: used, sources: linking.sources, choices },
    info: assemblyInfo(frozen, used),
    fingerprint: { size, modified: 0, content },
  }
}

/** A list put together anew, of the files that it knows. */
export function linkedAgain(
  index: MediaIndex,
  { model, file }: Pick<SplitTimeline, 'model' | 'file'>,
  { assembly, sources, choices }: Linking,
): Promise<Linked> {
  const known = [...assembly.sources, ...sources.flatMap((s) => s.candidates)]
  const files = [...grouped(known, fileKey).values()].map(([first]) => first!)
  return linkMedia(index, model, path.basename(file.path), choices, files)
}

/**
 * Reads an interchange file and links it. A list that does not carry its rate is read at the one most of its media runs
 * at, unless there are labels in it that this rate does not have.
 */
export async function readAndLink(
  index: MediaIndex,
  text: string,
  file: string,
  rate: Rate | null,
): Promise<{ read: Interchange; link: Linked }> {
  const read = readInterchange(text, file, rate)
  const link = await linkMedia(index, read.timeline, file, noChoices)
  const unknown = read.problems.find((p) => p.code === rateUnknown)
  const runs = rate || !asksRate(read.format) ? null : mediaRate(read.timeline, link.linking)
  const again = runs && (unknown || !sameRate(runs, read.timeline.rate)) ? readInterchange(text, file, runs) : null
  if (again && again.timeline.events.length >= read.timeline.events.length)
    return { read: again, link: await linkMedia(index, again.timeline, file, noChoices) }
  if (unknown) throw new ProblemError(unknown)
  return { read, link }
}

const asksRate = (format: string) => formats.find((f) => f.name === format)?.asksRate ?? false

/**
 * The rate more than half of a timeline's linked pictures run at; null when none does. A file whose frames last
 * differently has none: what it was conformed to says nothing about the list.
 */
function mediaRate(t: Timeline, linking: Linking): Rate | null {
  const frames = new Map<string, { rate: Rate; n: number }>()
  let all = 0
  t.events.forEach((e, i) => {
    const at = linking.assembly.links[i]!.clip
    const v = at && e.kind === 'video' ? linking.infos[at.source]?.video[0] : null
    if (!v || v.rateStated === false || !v.constantRate) return
    const n = e.record.out - e.record.in
    const key = rateText(v.rate)
    frames.set(key, { rate: v.rate, n: (frames.get(key)?.n ?? 0) + n })
    all += n
  })
  const best = [...frames.values()].sort((a, b) => b.n - a.n)[0]
  return best && best.n > all / 2 ? best.rate : null
}
