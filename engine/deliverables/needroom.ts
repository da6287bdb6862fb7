import { roomFor } from '../../core/deliverable/room'
import { grouped } from '../../core/group'
import { fail } from '../../core/problem'
import { bytesText, plural } from '../../core/text'
import type { Roots } from '../storage/roots'
import type { FilesUnderWay, FileUnderWay } from './underway'

/** A file that is to be made from its frozen sheet. */
type Going = Pick<FileUnderWay, 'id' | 'root' | 'output' | 'steps'>

/**
 * Refuses to make files for which the disks that they go to have no room, as forecast, beside what nights that go on
 * still have to make. A disk that is away is waited for.
 */
export async function needRoom(roots: Roots, underWay: FilesUnderWay, going: readonly Going[]): Promise<void> {
  const own = new Set(going.map((f) => f.id))
  const making = (await underWay.all()).filter((f) => !own.has(f.id))
  const disks = new Map<string, Awaited<ReturnType<Roots['disk']>> | null>()
  for (const root of new Set([...going, ...making].map((f) => f.root)))
    disks.set(root, await roots.disk(root).catch(() => null))
  for (const [on, files] of grouped(going, (f) => disks.get(f.root)?.on)) {
    if (on === undefined) continue
    const all = [...files, ...making.filter((f) => disks.get(f.root)?.on === on)]
    const { root } = files[0]!
    const room = roomFor(all, disks.get(root)!.free + (await underWay.written(all)))
    if (room.free < room.needed)
      fail(
        'run.room',
        `There is no room for ${plural(files.length, 'file')}: ${bytesText(room.needed)} are needed, ` +
          `with what is under way, and ${bytesText(room.free)} are free.`,
        root,
        'Make room there, or have less of it made: choose it at the Night run.',
      )
  }
}
