import { createHash } from 'node:crypto'
import { contentEdition } from '../../core/analysis/pictures'
import type { FilePath } from '../../core/media/filepath'
import { fail } from '../../core/problem'
import { readable } from './damage'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { Downmix } from '../../core/sound/downmix'
import { layoutOf } from '../../core/sound/layout'
import type { Frames } from '../../core/time/rate'
import { segmentLength } from '../storage/framestore'
import type { FrameRange } from '../../core/time/range'
import type { Db } from './database'

const rangesKey = (ranges: readonly FrameRange[]) => ranges.map((r) => `${r.in}-${r.out}`).join('+')

/** What is heard of a timeline: source channels from 0, what they are heard as, frames of silence between ranges. */
interface SoundAsked {
  readonly route: readonly number[]
  readonly layout?: string | null
  readonly downmix?: Downmix
  readonly pause?: Frames
}

/** Keys of facts: by content, so that the same media brought in again is known at once. */
export const factKeys = {
  pictures: (s: Fingerprint) => `pictures/10/${s.content}-${s.size}`,
  /** A segment of the pass over the pictures has been done. */
  segment: (s: Fingerprint, k: number) => `segment/8/${s.content}-${s.size}/${k}`,
  /** How many segments a pass over so many frames has. */
  segments: (frames: Frames) => Math.ceil(frames / segmentLength),
  sound: (s: Fingerprint) => `sound/7/${s.content}-${s.size}`,
  /** A sum of every byte of the media as it was brought in. */
  sum: (s: Fingerprint) => `sum/1/${s.content}-${s.size}`,
  /** What its coded pictures say of themselves. */
  units: (s: Fingerprint) => `units/1/${s.content}-${s.size}`,
  /** The assembly of a timeline of many sources, for the tasks that read it. */
  assembly: (s: Fingerprint) => `assembly/1/${s.content}-${s.size}`,
  /** Everything measured of a file from elsewhere. */
  file: (s: Fingerprint) => `file/16/${s.content}-${s.size}`,
  /** Which of the sums that lists have of media are not its own: by its place, since samples do not tell. */
  listedSums: (s: Fingerprint, place: FilePath, listed: readonly object[]) => {
    const sum = createHash('sha256').update(JSON.stringify([place.root, place.path, listed]))
    return `listed-sums/1/${s.content}-${s.size}/${sum.digest('hex').slice(0, 32)}`
  },
  /** What came of a stretch that was made with settings to be tried, by what it was made from. */
  tryout: (id: string) => `tryout/1/${id}`,
  /** Which pictures of a timeline are which of an older one. */
  samePictures: (older: Fingerprint, newer: Fingerprint) =>
    `same-pictures/1/${older.content}-${older.size}/${newer.content}-${newer.size}`,
  /** Of what a file shows of a timeline: its sound through a route, what it begins with, and its pictures. */
  regionSound: (s: Fingerprint, ranges: readonly FrameRange[], { route, layout, downmix, pause }: SoundAsked) => {
    const said = downmix ? `${downmix.from} ${downmix.to}` : layout === layoutOf(route.length) ? null : layout
    const told = said ? `${said.replaceAll(' ', '-')}/` : ''
    const paused = pause ? `${pause}/` : ''
    return `region-sound/8/${s.content}-${s.size}/${rangesKey(ranges)}/${paused}${told}${route.join(',')}`
  },
  regionHead: (s: Fingerprint, range: FrameRange) => `region-head/1/${s.content}-${s.size}/${range.in}-${range.out}`,
  regionPictures: (s: Fingerprint, ranges: readonly FrameRange[]) =>
    `region-pictures/${contentEdition}/${s.content}-${s.size}/${rangesKey(ranges)}`,
}

function factOf(row: { readonly key: string; readonly value: string }): { key: string; value: unknown } {
  try {
    return { key: row.key, value: JSON.parse(row.value) as unknown }
  } catch {
    return fail('data.damaged', 'The database keeps a fact that cannot be read.', row.key, 'It is worked out again.')
  }
}

export async function readFacts(db: Db, keys: readonly string[]): Promise<Map<string, unknown>> {
  const out = new Map<string, unknown>()
  for (let i = 0; i < keys.length; i += 500) {
    const rows = await db
      .selectFrom('fact')
      .selectAll()
      .where('key', 'in', keys.slice(i, i + 500))
      .execute()
    // a fact that cannot be read is as one that is not there: it is worked out again
    for (const r of readable(db, rows, factOf)) out.set(r.key, r.value)
  }
  return out
}

export async function writeFact(db: Db, key: string, value: unknown): Promise<void> {
  const text = JSON.stringify(value)
  await db
    .insertInto('fact')
    .values({ key, value: text })
    .onConflict((c) => c.column('key').doUpdateSet({ value: text }))
    .execute()
}
