import path from 'node:path'
import type { FilePath } from '../../core/media/filepath'
import type { MediaInfo } from '../../core/media/media'
import { fail } from '../../core/problem'
import type { SplitTimeline } from '../../core/split/timeline'
import type { Rate } from '../../core/time/rate'
import { openMediaFile } from '../storage/mediafile'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { flattenedTimeline } from './flattened'
import { readAndLink } from './linking'
import { readListText } from './listtext'
import type { MediaIndex } from './mediaindex'
import { freeName } from './naming'

/** A timeline before it is kept. */
export type NewTimeline = Omit<SplitTimeline, 'id' | 'split' | 'splitVersion'>

export interface BringInOptions {
  /** A list with the cuts of a flattened file. */
  readonly cuts?: FilePath
  readonly show?: string
  readonly name?: string
  /** For formats that do not carry one. */
  readonly rate?: Rate
}

/** A flattened media file as a new timeline: only its index is read. */
export async function newFromMedia(
  db: Db,
  roots: Roots,
  index: MediaIndex,
  media: FilePath,
  options: BringInOptions,
): Promise<NewTimeline> {
  const file = roots.resolve(media.root, media.path)
  const opened = await openMediaFile(file, media.path)
  await opened.close()
  const info = opened.info
  if (!info.video[0] && !info.audio[0])
    fail(
      'timeline.nothing',
      'There are neither pictures nor sound in this file, so there is nothing to lay out as a timeline.',
      media.path,
      'Choose the file that has them.',
    )
  const fingerprint = await index.fingerprint(media)
  const wanted = options.name ?? path.basename(media.path, path.extname(media.path))
  const { model, problems } = await flattenedWithCuts(roots, info, media, wanted, options.cuts ?? null)
  const named = await freeName(db, media, wanted, options.show, { linking: null, model, fingerprint })
  return {
    ...named,
    file: media,
    cuts: options.cuts ?? null,
    cutsOffset: 0,
    fingerprint,
    info,
    model,
    problems,
    linking: null,
  }
}

/** An interchange file as a new timeline, its media looked for below the storage roots. */
export async function newFromList(
  db: Db,
  roots: Roots,
  index: MediaIndex,
  place: FilePath,
  options: BringInOptions,
): Promise<NewTimeline> {
  const { text, problems } = await readListText(roots, place)
  const file = path.basename(place.path)
  const { read, link } = await readAndLink(index, text, file, options.rate ?? null)
  if (read.timeline.events.length === 0)
    fail(
      read.problems[0]?.code ?? 'timeline.empty',
      read.problems[0]?.message ?? 'There are no events in this file.',
      read.problems[0]?.where ?? file,
      'Bring in the timeline itself; lists of chapters go with a timeline that is here already.',
    )
  const wanted = options.name ?? path.basename(place.path, path.extname(place.path))
  const named = await freeName(db, place, wanted, options.show, { ...link, model: read.timeline })
  return {
    ...named,
    file: place,
    cuts: null,
    cutsOffset: 0,
    model: { ...read.timeline, name: named.name },
    problems: [...problems, ...read.problems],
    ...link,
  }
}

/** The model of a flattened file, with the cuts of a list when there is one. */
export async function flattenedWithCuts(
  roots: Roots,
  info: MediaInfo,
  media: FilePath,
  name: string,
  cuts: FilePath | null,
) {
  const list = cuts && { ...(await readListText(roots, cuts)), path: cuts.path }
  const { model, problems } = flattenedTimeline(info, media.path, name, list)
  return { model, problems: [...problems, ...(list?.problems ?? [])] }
}
