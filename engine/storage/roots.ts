import { constants, existsSync, readdirSync, realpathSync } from 'node:fs'
import { access, readdir, stat, statfs } from 'node:fs/promises'
import path from 'node:path'
import type { Entry } from '../../contract/files'
import { pathKey } from '../../core/deliverable/versions'
import { fail, ProblemError, toProblem, type Problem } from '../../core/problem'
import { markerOf, placeOf } from './identity'
import { filesOf, groupFiles, isRun } from '../../core/files/fileset'
import { statMedia } from './fileset'

/** A folder the server may read and write below. */
export interface Root {
  readonly name: string
  readonly path: string
  /** What it has to be marked with; absent where it is known by its place on the disk alone. */
  readonly marker?: string | null
}

/** A name for a root that none has yet: that of its folder. */
export function freeRootName(folder: string, taken: ReadonlySet<string>): string {
  const base = path.basename(folder) || 'disk'
  let name = base
  for (let i = 2; taken.has(name); i++) name = `${base} ${i}`
  return name
}

/** A folder and the keys of what lies in it; null where they cannot be listed. */
interface Folder {
  readonly full: string
  readonly names: ReadonlySet<string> | null
}

function folderAt(full: string): Folder | null {
  if (!existsSync(full)) return null
  try {
    return { full, names: new Set(readdirSync(full).map(pathKey)) }
  } catch {
    return { full, names: null }
  }
}

/** Where the nearest part of a path that is there really lies; folders may come and go while it is looked for. */
function realOf(full: string, top: string): string {
  for (let part = full; ; part = path.dirname(part)) {
    // thousands of names are asked for that are not there: a question is cheaper than an error
    if (part !== top && !existsSync(part)) continue
    try {
      return realpathSync(part)
    } catch (e) {
      const { code } = e as NodeJS.ErrnoException
      if (part === top || (code !== 'ENOENT' && code !== 'ENOTDIR')) throw e
    }
  }
}

/** The storage roots: every path from outside goes through here, and none leads out. */
export class Roots {
  readonly list: readonly Root[]
  /** Where each root was when it was seen first: a folder that lies elsewhere under the same name is another one. */
  private readonly places = new Map<string, string>()

  constructor(paths: readonly (string | Root)[]) {
    const seen = new Set<string>()
    this.list = paths.map((p) => {
      const full = path.resolve(typeof p === 'string' ? p : p.path)
      const name = typeof p === 'string' ? freeRootName(full, seen) : p.name
      seen.add(name)
      return { marker: null, ...(typeof p === 'string' ? {} : p), name, path: full }
    })
    for (const { name } of this.list) this.away(name)
  }

  /**
   * What is wrong when a root is not there, or is not the folder that it was: a drive that was taken away leaves its
   * mount point behind, which can be written to. Null when all is well.
   */
  away(name: string): Problem | null {
    const root = this.list.find((r) => r.name === name)
    const problem = (message: string, fix: string) => ({ code: 'root.away', message, where: root?.path ?? name, fix })
    if (!root)
      return problem(
        `There is no storage root called “${name}” any more.`,
        'Start again with the folder that it was, or choose another one.',
      )
    const place = placeOf(root.path)
    if (place === null)
      return problem(`The storage root “${name}” is not there.`, 'Connect the drive, or restart with another root.')
    if (this.places.get(name) === place) return null
    const marker = root.marker ?? null
    const same = marker === null ? !this.places.has(name) : markerOf(root.path) === marker
    if (!same)
      return problem(
        `The storage root “${name}” is not the folder that it was: its drive seems to be away.`,
        marker === null
          ? 'Connect the drive, or restart with the folder that is there now.'
          : `Connect the drive; a folder that was emptied on purpose needs something in it before the next start.`,
      )
    this.places.set(name, place)
    return null
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
    const away = this.away(rootName)
    if (away) throw new ProblemError(away)
    const full = path.resolve(root.path, relative)
    const within = (child: string, parent: string) =>
      child === parent || child.startsWith(parent.endsWith(path.sep) ? parent : parent + path.sep)
    if (!within(full, root.path)) refuse()
    // the nearest part that exists must not be a link that leads out
    if (!within(realOf(full, root.path), realpathSync(root.path))) refuse()
    return full
  }

  /**
   * Looks for many names at one moment, to show what is there: each root and folder is looked up once. What writes or
   * reads asks {@link resolve} for every path.
   */
  glance(): (rootName: string, relative: string) => boolean {
    const folders = new Map<string, Folder | null>()
    return (rootName, relative) => {
      const slash = relative.lastIndexOf('/')
      const key = `${rootName}:${relative.slice(0, slash + 1)}`
      let folder = folders.get(key)
      if (folder === undefined) {
        try {
          folder = folderAt(this.resolve(rootName, relative.slice(0, slash + 1)))
        } catch {
          folder = null
        }
        folders.set(key, folder)
      }
      const name = relative.slice(slash + 1)
      // whether another case is the same file is the disk's to say
      const may = folder !== null && (folder.names === null || folder.names.has(pathKey(name)))
      return may && existsSync(`${folder!.full}${path.sep}${name}`)
    }
  }

  /** As {@link away}, but nothing is wrong with a folder that was never there: it can still be made. */
  lost(name: string): Problem | null {
    const root = this.list.find((r) => r.name === name)
    return root && !root.marker && !this.places.has(name) ? null : this.away(name)
  }

  /** What is wrong when nothing can be written to a root; null when something can, or it is yet to be made. */
  async readOnly(name: string): Promise<Problem | null> {
    try {
      await access(this.root(name).path, constants.W_OK)
      return null
    } catch (e) {
      const { code } = e as NodeJS.ErrnoException
      if (code !== 'EROFS' && code !== 'EACCES') return null
      return { ...toProblem(e), message: `The storage root “${name}” can only be read.`, code: 'root.read-only' }
    }
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

  /**
   * Bytes free where a root lies, or will lie, and the disk that is on: the same for roots that have their room from
   * one. Of one that was there and is away nothing is known.
   */
  async disk(rootName: string): Promise<{ readonly on: number; readonly free: number }> {
    let place = this.root(rootName).path
    const lost = this.lost(rootName)
    if (lost) throw new ProblemError(lost)
    while (!existsSync(place) && path.dirname(place) !== place) place = path.dirname(place)
    const [s, { dev }] = await Promise.all([statfs(place), stat(place)])
    return { on: dev, free: s.bavail * s.bsize }
  }
}
