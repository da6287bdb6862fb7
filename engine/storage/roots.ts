import { existsSync, realpathSync } from 'node:fs'
import { readdir, stat, statfs } from 'node:fs/promises'
import path from 'node:path'
import type { Entry } from '../../contract/files'
import { fail } from '../../core/problem'
import { filesOf, groupFiles, isRun, statMedia } from './fileset'

/** A folder the server may read and write below. */
export interface Root {
  readonly name: string
  readonly path: string
}

/** The storage roots: every path from outside goes through here, and none leads out. */
export class Roots {
  readonly list: readonly Root[]

  constructor(paths: readonly (string | Root)[]) {
    const seen = new Set<string>()
    this.list = paths.map((p) => {
      const full = path.resolve(typeof p === 'string' ? p : p.path)
      const base = typeof p === 'string' ? path.basename(full) || 'disk' : p.name
      let name = base
      for (let i = 2; seen.has(name); i++) name = `${base} ${i}`
      seen.add(name)
      return { name, path: full }
    })
  }

  root(name: string): Root {
    return (
      this.list.find((r) => r.name === name) ??
      fail(
        'root.unknown',
        `There is no storage root called “${name}”.`,
        name,
        `The roots are: ${this.list.map((r) => r.name).join(', ')}.`,
      )
    )
  }

  /** The absolute path of something below a root; refuses whatever would lie outside, links included. */
  resolve(rootName: string, relative: string): string {
    const root = this.root(rootName)
    const refuse = (): never =>
      fail(
        'root.outside',
        `“${relative}” lies outside the storage root “${rootName}”.`,
        relative,
        'Choose a place below one of the storage roots.',
      )
    if (relative.includes('\0')) refuse()
    if (!existsSync(root.path))
      fail(
        'root.gone',
        `The storage root “${rootName}” is not there.`,
        root.path,
        'Connect the drive, or restart with another root.',
      )
    const full = path.resolve(root.path, relative)
    const within = (child: string, parent: string) =>
      child === parent || child.startsWith(parent.endsWith(path.sep) ? parent : parent + path.sep)
    if (!within(full, root.path)) refuse()
    // the nearest part that exists must not be a link that leads out
    let existing = full
    while (!existsSync(existing) && existing !== root.path) existing = path.dirname(existing)
    if (!within(realpathSync(existing), realpathSync(root.path))) refuse()
    return full
  }

  /** Finds the root a path on this machine lies below. */
  locate(absolute: string): { root: string; path: string } {
    const full = path.resolve(absolute)
    for (const r of this.list) {
      const relative = path.relative(r.path, full)
      if (!relative.startsWith('..') && !path.isAbsolute(relative))
        return { root: r.name, path: relative.split(path.sep).join('/') }
    }
    return fail(
      'root.outside',
      `“${absolute}” lies outside every storage root.`,
      absolute,
      `Put it below one of: ${this.list.map((r) => r.path).join(', ')}.`,
    )
  }

  /** What is in a folder, folders first. Hidden files are left out. */
  async entries(rootName: string, relative: string): Promise<Entry[]> {
    const folder = this.resolve(rootName, relative)
    const out: Entry[] = []
    for (const d of await readdir(folder, { withFileTypes: true })) {
      if (d.name.startsWith('.') || !(d.isDirectory() || d.isFile())) continue
      const info = await stat(path.join(folder, d.name)).catch(() => null)
      if (info)
        out.push({
          name: d.name,
          path: path.posix.join(relative, d.name),
          folder: d.isDirectory(),
          size: info.size,
          modified: info.mtimeMs,
        })
    }
    // sets of sound files stand beside their files, a run of stills stands for them
    const inRuns = new Set<string>()
    const groups = out.length < 50_000 ? groupFiles(out.filter((e) => !e.folder).map((e) => e.name)) : []
    for (const name of groups) {
      const s = await statMedia(path.join(folder, name)).catch(() => null)
      if (!s) continue
      out.push({ name, path: path.posix.join(relative, name), folder: false, size: s.size, modified: s.modified })
      if (isRun(name)) for (const still of filesOf(name)!) inRuns.add(still)
    }
    return out
      .filter((e) => !inRuns.has(e.name))
      .sort((a, b) => Number(b.folder) - Number(a.folder) || a.name.localeCompare(b.name))
  }

  /** Bytes free where a root lies, or will lie. */
  async free(rootName: string): Promise<number> {
    let place = this.root(rootName).path
    while (!existsSync(place) && path.dirname(place) !== place) place = path.dirname(place)
    const s = await statfs(place)
    return s.bavail * s.bsize
  }
}
