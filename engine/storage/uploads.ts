import { createWriteStream, existsSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import path from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { fileSafe } from '../../core/files/safe'
import { freePath, versionLabel } from '../../core/deliverable/versions'
import type { FilePath } from '../../core/media/filepath'
import { fail } from '../../core/problem'
import { bytesText } from '../../core/text'
import { flushFile, makeFolder } from './durable'
import { moveUnlessTaken, noneFree } from './exclusive'
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

  /**
   * Takes a file into the first storage root, under a free name that no other gets at the same time. `size` is what is
   * to come, when it is known; more than there is room for is refused before anything is written.
   */
  async take(name: string, body: Readable, size: number | null = null): Promise<FilePath> {
    const root =
      this.roots.list[0] ??
      fail('root.none', 'There is no storage root to put files into.', name, 'Start the server with --storage DIR.')
    if (size !== null && size > (await this.roots.disk(root.name)).free)
      fail(
        'disk.full',
        `There is no room for ${bytesText(size)} on “${root.name}”.`,
        name,
        'Free some room, or copy the file to another storage folder.',
      )
    const safe = fileSafe(path.basename(name).replace(/\.[^.]*$/, '')) || 'file'
    const extension = /\.[A-Za-z0-9]{1,8}$/.exec(name)?.[0] ?? ''
    const folder = await scratchFolder(this.roots, root.name, this.installation, 'incoming')
    const scratch = path.join(folder, `${Date.now()}-${Math.random().toString(36).slice(2)}.part`)
    try {
      await pipeline(body, createWriteStream(scratch))
      await flushFile(scratch)
      return { root: root.name, path: await this.name(root.name, scratch, safe, extension) }
    } finally {
      await rm(scratch, { force: true })
    }
  }

  /** Gives a file its name: the next version of it where another has it. */
  private async name(root: string, scratch: string, safe: string, extension: string): Promise<string> {
    await makeFolder(this.roots.resolve(root, uploadFolder))
    const versioned = (v: number) => `${uploadFolder}/${safe}${v === 1 ? '' : `_${versionLabel(v)}`}${extension}`
    for (let tries = 0; tries < 20; tries++) {
      const { path: target } = freePath(versioned, (p) => existsSync(this.roots.resolve(root, p)))
      if (await moveUnlessTaken(scratch, this.roots.resolve(root, target))) return target
    }
    return noneFree(versioned(1))
  }
}
