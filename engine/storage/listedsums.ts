import type { Stats } from 'node:fs'
import { readdir, readFile, stat } from 'node:fs/promises'
import path from 'node:path'
import { LRUCache } from 'lru-cache'
import { filesOf } from '../../core/files/fileset'
import { isSumList, readSumList, type ListedSum, type SumList } from '../../core/files/sumlist'
import type { Problem } from '../../core/problem'
import { decodeText, plural } from '../../core/text'
import { sumsOfFile } from './hashing'

/** What a list of checksums says of one file. */
export interface ExpectedSum {
  readonly kind: ListedSum['kind']
  readonly sum: string
  /** Name of the file. */
  readonly file: string
  /** Name of the list. */
  readonly list: string
}

/** A file that a list names and that is not there. */
export interface Absent {
  readonly path: string
  readonly list: string
}

interface Listed extends ExpectedSum {
  readonly full: string
}

/** A list larger than this is none. */
const largest = 64 << 20

/** Names are written composed by one system, and taken apart by another. */
const keyOf = (full: string) => full.normalize('NFC')

/** Lists of checksums in folders, each read once. */
export class SumLists {
  private readonly folders = new Map<string, Promise<ReadonlyMap<string, readonly Listed[]>>>()
  /** Lists that were looked at and are not understood. */
  readonly strange: { readonly path: string; readonly problem: Problem }[] = []

  /** `top`: the outermost folder whose lists are looked at; places are told below it. */
  constructor(private readonly top: string) {}

  /** What lists in the folder of media, and in those that this lies in, say of it: of each file of a set. */
  async of(media: string): Promise<ExpectedSum[]> {
    const out: ExpectedSum[] = []
    const files = filesOf(media) ?? [media]
    for (let folder = path.dirname(media); ; folder = path.dirname(folder)) {
      const lists = await this.in(folder)
      for (const f of lists.size ? files : [])
        for (const { kind, sum, file, list } of lists.get(keyOf(f)) ?? []) out.push({ kind, sum, file, list })
      if (folder === this.top || !inside(this.top, folder)) return out
    }
  }

  /** Files that lists at or below a folder name and that are not there. */
  async absent(folder: string): Promise<Absent[]> {
    const out = new Map<string, string>()
    const lists = (await readdir(folder, { recursive: true })).filter((n) => isSumList(path.basename(n)))
    for (const within of new Set(lists.filter((n) => !isHidden(n)).map((n) => path.dirname(n))))
      for (const expected of (await this.in(path.join(folder, within))).values())
        for (const { full, list } of expected) if (!(await stat(full).catch(() => null))) out.set(this.told(full), list)
    return [...out].map(([file, list]) => ({ path: file, list }))
  }

  private in(folder: string) {
    const known = this.folders.get(folder) ?? this.read(folder)
    this.folders.set(folder, known)
    return known
  }

  private async read(folder: string): Promise<ReadonlyMap<string, readonly Listed[]>> {
    const out = new Map<string, Listed[]>()
    const names = await readdir(folder).catch(() => [])
    for (const name of names.filter((n) => isSumList(n) && !isHidden(n)).sort()) {
      const file = path.join(folder, name)
      const info = await stat(file).catch(() => null)
      if (!info?.isFile()) continue
      const { sums, strange } = await listAt(file, info)
      if (strange.length > 0)
        this.strange.push({ path: this.told(file), problem: notUnderstood(this.told(file), strange) })
      for (const { kind, sum, path: said } of sums) {
        const full = await placeOf(folder, said, names)
        const key = keyOf(full)
        out.set(key, [...(out.get(key) ?? []), { kind, sum, full, file: path.basename(full), list: name }])
      }
    }
    return out
  }

  private told(file: string): string {
    return path.relative(this.top, file).split(path.sep).join('/')
  }
}

/** Lists as they were read, by place, size and time: a folder that is watched is looked at every few seconds. */
const lists = new LRUCache<string, SumList>({ max: 200 })

async function listAt(file: string, { size, mtimeMs }: Pick<Stats, 'size' | 'mtimeMs'>): Promise<SumList> {
  const key = `${file}\0${size}\0${mtimeMs}`
  const known = lists.get(key)
  if (known) return known
  const text = size > largest ? null : decodeText(await readFile(file)).text
  const list = text === null ? { sums: [], strange: [1] } : readSumList(text, path.basename(file))
  lists.set(key, list)
  return list
}

const isHidden = (name: string) => name.split(path.sep).some((part) => part.startsWith('.'))
const inside = (top: string, folder: string) => folder.startsWith(top + path.sep)

/**
 * Where a list means a file to be. A path of another machine, or out of its folder, stands for its last name; so does
 * one from a folder further out, which leads to nothing here.
 */
async function placeOf(folder: string, said: string, names: readonly string[]): Promise<string> {
  const full = path.resolve(folder, said)
  const beside = path.join(folder, said.split('/').at(-1)!)
  if (/^[a-z]:\//i.test(said) || !inside(folder, full)) return beside
  if (full === beside || !names.includes(path.basename(beside))) return full
  return (await stat(full).catch(() => null)) ? full : beside
}

const notUnderstood = (where: string, [first, ...more]: readonly number[]): Problem => ({
  code: 'sums.lines',
  message: `${plural(more.length + 1, 'line')} of this list of checksums ${more.length ? 'are' : 'is'} not understood.`,
  where: `${where}, line ${first}`,
  fix: 'Have it written as “sum  path” a line, in hexadecimal digits.',
})

/** Those of the sums that a media file does not have; `progress` is told while it is read. */
export async function differing(
  media: string,
  expected: readonly ExpectedSum[],
  progress: () => void = () => undefined,
): Promise<ExpectedSum[]> {
  const out: ExpectedSum[] = []
  for (const file of filesOf(media) ?? [media]) {
    const own = expected.filter((e) => e.file.normalize('NFC') === path.basename(file).normalize('NFC'))
    const kinds = [...new Set(own.map((e) => e.kind))]
    if (kinds.length === 0) continue
    const sums = await sumsOfFile(file, kinds, progress)
    out.push(...own.filter((e) => sums[e.kind] !== e.sum))
  }
  return out
}
