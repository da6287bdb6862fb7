import path from 'node:path'
import type { FilePath } from '../../core/media/filepath'
import type { Fingerprint } from '../../core/media/fingerprint'
import { fail } from '../../core/problem'
import { uploadFolder } from '../storage/uploads'
import { sameRate } from '../../core/time/rate'
import type { Timeline } from '../../core/timeline/model'
import { readable } from '../store/damage'
import type { Db } from '../store/database'
import { timelineOf } from '../store/timelines'

/** The name all versions of a timeline share, and which one this is. */
export function versionOf(name: string): { readonly stem: string; readonly version: number } {
  const m = /^(.*?)[ _-]*v(\d{1,4})$/i.exec(name)
  return m?.[1] ? { stem: m[1], version: Number(m[2]) } : { stem: name, version: 1 }
}

/** Whether one timeline can be a version of another: both flattened files, or both lists, at one rate. */
export const alike = (a: Alike, b: Alike): boolean =>
  (a.linking === null) === (b.linking === null) && sameRate(a.model.rate, b.model.rate)
type Alike = { readonly linking: object | null; readonly model: Pick<Timeline, 'rate'> }

/**
 * A name that is free: the same media twice is refused, another state of it is a new version; what is no version of the
 * one that has the name is told apart by its extension.
 */
export async function freeName(
  db: Db,
  place: FilePath,
  wanted: string,
  show: string | undefined,
  made: Alike & { readonly fingerprint: Fingerprint },
): Promise<{ name: string; show: string }> {
  const in_ = show ?? (await showOf(db, place, wanted))
  const rows = await db.selectFrom('timeline').selectAll().where('show', '=', in_).execute()
  const there = new Map(readable(db, rows, timelineOf).map((t) => [t.name, t]))
  const ofName = (name: string) => [...there.values()].filter((t) => versionOf(t.name).stem === versionOf(name).stem)
  const ext = path.extname(place.path)
  const others = ofName(wanted)
  const base = others.length && ext && !others.some((t) => alike(t, made)) ? `${wanted}${ext}` : wanted
  if (!rows.some((r) => r.name === base)) return { name: base, show: in_ }
  if (ofName(base).some((t) => t.fingerprint.content === made.fingerprint.content))
    fail(
      'timeline.same-name',
      `“${base}” is in “${in_}” already, just as it is here.`,
      place.path,
      'Nothing has changed in it; there is no need to bring it in again.',
    )
  const { stem, version } = versionOf(base)
  const isTaken = (name: string) => rows.some((r) => r.name === name)
  for (let v = version + 1; ; v++) if (!isTaken(`${stem} v${v}`)) return { name: `${stem} v${v}`, show: in_ }
}

/** The show a file belongs to: that of its folder. */
async function showOf(db: Db, media: FilePath, name: string): Promise<string> {
  const folder = path.posix.dirname(media.path)
  // what was dropped lies in no folder of a show: it belongs where its other versions are
  if (folder === uploadFolder) {
    const alike = (await db.selectFrom('timeline').select(['show', 'name']).orderBy('created', 'desc').execute()).find(
      (t) => versionOf(t.name).stem === versionOf(name).stem,
    )
    if (alike) return alike.show
  }
  return folder === '.' ? media.root : folder.split('/').at(-1)!
}
