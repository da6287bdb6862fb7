import { readdir } from 'node:fs/promises'
import path from 'node:path'
import { isMediaFile } from '../../core/files/kinds'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { MediaInfo } from '../../core/media/media'
import type { MediaFile } from '../../core/timeline/link/source'
import { groupFiles } from '../../core/files/fileset'
import { fingerprintOf } from '../storage/fingerprint'
import { statMedia } from '../storage/fileset'
import { openMediaFile } from '../storage/mediafile'
import type { Roots } from '../storage/roots'
import type { Settle } from './settle'

const mostFiles = 20_000
const mostFolders = 5000

/**
 * The media files below the storage roots, and what each of them is; what was read once is kept while the file stays as
 * it is.
 */
export class MediaIndex {
  private readonly known = new Map<
    string,
    { readonly size: number; readonly modified: number; readonly info: Promise<MediaInfo | null> }
  >()

  constructor(
    private readonly roots: Roots,
    private readonly settle: Settle = (_, taken) => Promise.resolve(taken),
  ) {}

  /** What identifies a file. */
  async fingerprint(file: MediaFile): Promise<Fingerprint> {
    const full = this.roots.resolve(file.root, file.path)
    return this.settle(full, await fingerprintOf(full))
  }

  /** All media files, by a walk that stays below the roots and follows no links. */
  async files(): Promise<MediaFile[]> {
    const out: MediaFile[] = []
    // a root may lie within another
    const seen = new Set<string>()
    for (const root of this.roots.list) {
      const folders = ['']
      for (let n = 0; folders.length > 0 && n < mostFolders && out.length < mostFiles; n++) {
        const folder = folders.shift()!
        const entries = await readdir(path.join(root.path, folder), { withFileTypes: true }).catch(() => [])
        for (const name of groupFiles(entries.filter((e) => e.isFile() && !e.name.startsWith('.')).map((e) => e.name)))
          out.push({ root: root.name, path: path.posix.join(folder, name) })
        for (const e of entries.sort((a, b) => a.name.localeCompare(b.name))) {
          if (e.name.startsWith('.') || e.name === 'node_modules') continue
          const below = path.posix.join(folder, e.name)
          if (e.isDirectory()) folders.push(below)
          const full = path.join(root.path, below)
          if (!e.isFile() || !isMediaFile(e.name) || out.length >= mostFiles || seen.has(full)) continue
          seen.add(full)
          out.push({ root: root.name, path: below })
        }
      }
    }
    return out
  }

  /** What a file is; null when it cannot be read as media. */
  async probe(file: MediaFile): Promise<MediaInfo | null> {
    const full = this.roots.resolve(file.root, file.path)
    const s = await statMedia(full).catch(() => null)
    if (!s) return null
    const key = `${file.root}\0${file.path}`
    const kept = this.known.get(key)
    if (kept && kept.size === s.size && kept.modified === s.modified) return kept.info
    const info = (async () => {
      const opened = await openMediaFile(full, file.path)
      await opened.close()
      return opened.info
    })().catch(() => null)
    this.known.set(key, { size: s.size, modified: s.modified, info })
    return info
  }
}
