import { createWriteStream, existsSync } from 'node:fs'
import { mkdir, open, rename, rm } from 'node:fs/promises'
import path from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { fileSafe } from '../../core/deliverable/names'
import { freePath, versionLabel } from '../../core/deliverable/versions'
import type { FilePath } from '../../core/media/filepath'
import { fail } from '../../core/problem'
import type { Roots } from './roots'
import { scratchFolder } from './scratch'

/** Where dropped files are put, below the first root. */
export const uploadFolder = 'Incoming'

/** Takes files that were dropped on the page. */
export class Uploads {
  constructor(
    private readonly roots: Roots,
    private readonly installation: string,
  ) {}

  /** Takes a file into the first storage root, under a free name. */
  async take(name: string, body: ReadableStream<Uint8Array>): Promise<FilePath> {
    const root =
      this.roots.list[0] ??
      fail('root.none', 'There is no storage root to put files into.', name, 'Start the server with --storage DIR.')
    const safe = fileSafe(path.basename(name).replace(/\.[^.]*$/, '')) || 'file'
    const extension = /\.[A-Za-z0-9]{1,8}$/.exec(name)?.[0] ?? ''
    const folder = await scratchFolder(this.roots, root.name, this.installation, 'incoming')
    const scratch = path.join(folder, `${Date.now()}-${Math.random().toString(36).slice(2)}.part`)
    try {
      await pipeline(Readable.fromWeb(body as never), createWriteStream(scratch))
      const handle = await open(scratch, 'r+')
      await handle.sync()
      await handle.close()
      const { path: target } = await freePath(
        (v) => `${uploadFolder}/${safe}${v === 1 ? '' : `_${versionLabel(v)}`}${extension}`,
        (p) => existsSync(this.roots.resolve(root.name, p)),
      )
      const full = this.roots.resolve(root.name, target)
      await mkdir(path.dirname(full), { recursive: true })
      await rename(scratch, full)
      return { root: root.name, path: target }
    } catch (e) {
      await rm(scratch, { force: true })
      throw e
    }
  }
}
