import { fingerprintOf } from '../store/timelines'
import path from 'node:path'
import type { FilePath } from '../../core/media/filepath'
import type { Fingerprint } from '../../core/media/fingerprint'
import { fail } from '../../core/problem'
import { uploadFolder } from '../storage/uploads'
import type { Db } from '../store/database'

/** The name all versions of a timeline share, and which one this is. */
export function versionOf(name: string): { readonly stem: string; readonly version: number } {
  const m = /^(.*?)[ _-]*v(\d{1,4})$/i.exec(name)
  return m?.[1] ? { stem: m[1], version: Number(m[2]) } : { stem: name, version: 1 }
}

/** A name that is free: the same media twice is refused, another state of it is a new version. */
export async function freeName(
  db: Db,
  place: FilePath,
  wanted: string,
  show: string | undefined,
  fingerprint: Fingerprint,
): Promise<{ name: string; show: string }> {
  const in_ = show ?? (await showOf(db, place, wanted))
  const rows = await db.selectFrom('timeline').select(['name', 'fingerprint']).where('show', '=', in_).execute()
  const taken = new Map(rows.map((r) => [r.name, fingerprintOf(r)]))
  if (!taken.has(wanted)) return { name: wanted, show: in_ }
  if (
    [...taken].some(([name, s]) => versionOf(name).stem === versionOf(wanted).stem && s.content === fingerprint.content)
  )
    fail(
      'timeline.same-name',
      `“${wanted}” is in “${in_}” already, just as it is here.`,
      place.path,
      'Nothing has changed in it; there is no need to bring it in again.',
    )
  const { stem, version } = versionOf(wanted)
  for (let v = version + 1; ; v++) if (!taken.has(`${stem} v${v}`)) return { name: `${stem} v${v}`, show: in_ }
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
