import { lastWhere } from '../../time/order'
import { keys } from './labels'
import { readSet, type ReadSet } from './metadata'
import { isFill, isPartition, type KlvReader, type Partition } from './partitions'

/** Where the elements of one track stand, one for each edit unit; a clip-wrapped track is cut by its index. */
export interface Elements {
  readonly count: number
  at(i: number): number
  /** Of data whose elements differ in a file that is regular otherwise: the room that each has. */
  size(i: number): number
  readonly varies?: true
}

/** An index of a file's essence (SMPTE ST 377-1 11): all of one size, or one entry for each edit unit. */
export interface Index {
  /** Where its first segment stands. */
  readonly at: number
  /** Bytes of each edit unit; 0 where they differ. */
  readonly unitBytes: number
  readonly entries: readonly { readonly temporal: number; readonly sync: boolean; readonly offset: number }[]
  /** How many edit units it is of; Infinity where it is of all there are. */
  readonly covers: number
}

/** Reads the index of a body, over all partitions; null when there is none. */
export async function readIndex(
  reader: KlvReader,
  partitions: readonly Partition[],
  bodySid: number,
): Promise<Index | null> {
  const byStart = new Map<number, ReadSet>()
  let first = Infinity
  for (const p of partitions.filter((q) => q.indexBytes > 0)) {
    for (let at = (await behindFill(reader, p.end)) + p.headerBytes; at < reader.size;) {
      const klv = await reader.klv(at)
      if (!klv || isPartition(klv.key) || keys.essence.test(klv.key)) break
      if (klv.key === keys.index && klv.value + klv.length <= reader.size) {
        const segment = readSet('identification', await reader.value(klv), new Map())
        if ((segment.u32('bodySid') ?? bodySid) === bodySid) {
          byStart.set(segment.i64('indexStart') ?? 0, segment)
          first = Math.min(first, at)
        }
      }
      at = klv.value + klv.length
    }
  }
  const segments = [...byStart].sort(([a], [b]) => a - b).map(([, s]) => s)
  if (segments.length === 0) return null
  const unitBytes = segments[0]!.u32('unitBytes') ?? 0
  const entries: Index['entries'][number][] = []
  for (const segment of segments) entries.push(...entriesOf(segment))
  const constant = unitBytes > 0 && segments.every((s) => s.u32('unitBytes') === unitBytes)
  // of units that are all of one size, none said is all of them
  const lengths = segments.map((s) => s.i64('indexDuration') || Infinity)
  return {
    at: first,
    unitBytes: constant ? unitBytes : 0,
    entries,
    covers: constant ? lengths.reduce((n, d) => n + d, 0) : entries.length,
  }
}

function* entriesOf(segment: ReadSet) {
  const bytes = segment.bytes('entries')
  if (!bytes || bytes.length < 8) return
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const [count, size] = [view.getUint32(0), view.getUint32(4)]
  for (let i = 0, at = 8; i < count && size >= 11 && at + size <= bytes.length; i++, at += size)
    yield {
      temporal: view.getInt8(at),
      sync: (view.getUint8(at + 2) & 0x80) !== 0,
      offset: view.getUint32(at + 3) * 2 ** 32 + view.getUint32(at + 7),
    }
}

interface Found {
  readonly key: string
  readonly at: number
  readonly value: number
  readonly length: number
}

/** What is in a content package. */
interface Package {
  readonly elements: readonly Found[]
  readonly system: Found | null
}

/**
 * What was found of a body's essence: where each track's elements stand, and whether the file breaks off among them.
 */
export interface Essence {
  /** By track number, the last four bytes of the elements' key. */
  readonly tracks: ReadonlyMap<number, Elements>
  /** The first edit unit of each partition that has some. */
  readonly firsts: readonly number[]
  /** Packs of system items in front of frames (ST 379-1 8); null where there are none. */
  readonly system: Elements | null
  readonly broken: boolean
  /** Where there was no key in the midst of it; null where all are there. */
  readonly lost: number | null
}

const trackNumber = (key: string) => parseInt(key.slice(24), 16)
/** Kinds of items: those of the generic container, and pictures and sound of D-10 (ST 379-2 table 3, ST 386). */
const isElement = (key: string) =>
  keys.essence.test(key) && (parseInt(key.slice(24, 26), 16) >= 0x15 || /^0[567]/.test(key.slice(24)))
/** Elements of data, whose sizes are their own. */
const isData = (key: string) => keys.essence.test(key) && key.slice(24, 26) === '17'
/** What the package in front of a frame says of it, in a pack of its own (SMPTE ST 326, ST 385). */
const isSystemPack = (key: string) => /^060e2b340205010.0d01030104010100$/.test(key)
const isSystem = (key: string) => /^060e2b3402(05|43|63)01010d0103010[14]/.test(key)

interface Stretch {
  readonly from: number
  readonly to: number
}

/** Where a body's essence is: after its partitions' metadata and indexes, up to the next partition. */
async function stretches(
  reader: KlvReader,
  partitions: readonly Partition[],
  bodySid: number,
): Promise<readonly Stretch[]> {
  const out: Stretch[] = []
  for (const [i, p] of partitions.entries()) {
    if (p.bodySid !== bodySid) continue
    // metadata is counted from behind the fill that may follow the pack (ST 377-1 7.1)
    const from = (await behindFill(reader, p.end)) + p.headerBytes + p.indexBytes
    out.push({ from: await behindFill(reader, from), to: partitions[i + 1]?.at ?? reader.size })
  }
  return out
}

/**
 * Finds the essence of a body. Where the index says that all edit units are of one size, and the first of each of its
 * partitions, the last and some between are laid out alike, nothing else is read; else every key is met on the way.
 */
export async function findEssence(
  reader: KlvReader,
  partitions: readonly Partition[],
  bodySid: number,
  index: Index | null,
): Promise<Essence> {
  const parts = await stretches(reader, partitions, bodySid)
  if (parts.length === 0) return { tracks: new Map(), firsts: [], system: null, broken: false, lost: null }
  const regular = index && index.unitBytes > 0 ? await regularly(reader, parts, index.unitBytes) : null
  return regular ?? scanned(reader, parts)
}

async function behindFill(reader: KlvReader, at: number): Promise<number> {
  for (;;) {
    const klv = await reader.klv(at)
    if (!klv || !isFill(klv.key)) return at
    at = klv.value + klv.length
  }
}

/** What is in the content package at a place; null where it is not as long as it should be. */
async function packageAt(reader: KlvReader, at: number, bytes: number): Promise<Package | null> {
  const out: Found[] = []
  let system: Found | null = null
  const end = at + bytes
  for (let place = at; place < end;) {
    const klv = await reader.klv(place)
    if (!klv || isPartition(klv.key)) return null
    if (isElement(klv.key)) out.push(klv)
    else if (isSystemPack(klv.key)) system = klv
    else if (!isFill(klv.key) && !isSystem(klv.key)) return null
    place = klv.value + klv.length
    if (place > end) return null
  }
  return out.length > 0 ? { elements: out, system } : null
}

/** Edit units of one size, in one partition or several: how many there are, the first of each, and where each is. */
function unitsIn(parts: readonly Stretch[], unit: number) {
  const there = parts
    .map(({ from, to }) => ({ from, count: Math.floor((to - from) / unit) }))
    .filter((p) => p.count > 0)
  const firsts: number[] = []
  let count = 0
  for (const p of there) {
    firsts.push(count)
    count += p.count
  }
  const at = (n: number) => {
    const part = lastWhere(firsts.length, (i) => firsts[i]! <= n)
    return there[part]!.from + (n - firsts[part]!) * unit
  }
  return { count, firsts, at }
}

async function regularly(reader: KlvReader, parts: readonly Stretch[], unit: number): Promise<Essence | null> {
  const { count, firsts, at } = unitsIn(parts, unit)
  const left = parts.map(({ from, to }) => (to - from) % unit !== 0)
  const broken = left.pop()! && parts.at(-1)!.to === reader.size
  if (left.includes(true)) return null
  const head = count > 0 ? await packageAt(reader, at(0), unit) : null
  const first = head?.elements
  if (!first || new Set(first.map((e) => e.key)).size !== first.length) return null
  // sound may have a sample more or less, in a pattern of at most ten frames; pictures may not differ
  const pattern = first.map((e) => [e.length])
  const some = [...Array.from({ length: 10 }, (_, i) => i), count >> 2, count >> 1, count - 1, ...firsts]
  for (const n of [...new Set(some)].filter((i) => i > 0 && i < count)) {
    const there = (await packageAt(reader, at(n), unit))?.elements
    if (there?.length !== first.length) return null
    for (const [k, e] of there.entries()) {
      if (e.key !== first[k]!.key || e.value - at(n) !== first[k]!.value - at(0)) return null
      if (isData(e.key)) continue
      if (n < 10) pattern[k]!.push(e.length)
      else if (e.length !== pattern[k]![n % pattern[k]!.length]) return null
    }
  }
  const tracks = new Map<number, Elements>()
  first.forEach((e, k) => {
    const inside = e.value - at(0)
    const own = { count, at: (i: number) => at(i) + inside }
    if (isData(e.key)) {
      const room = (first[k + 1]?.at ?? at(0) + unit) - e.value
      tracks.set(trackNumber(e.key), { ...own, size: () => room, varies: true })
      return
    }
    const sizes = shortest(pattern[k]!)
    tracks.set(trackNumber(e.key), { ...own, size: (i) => sizes[i % sizes.length]! })
  })
  const pack = head.system
  const system = pack && { count, at: (i: number) => at(i) + pack.value - at(0), size: () => pack.length }
  return { tracks, firsts, system, broken, lost: null }
}

/** The shortest pattern that a run of numbers repeats. */
function shortest(run: readonly number[]): readonly number[] {
  for (let n = 1; n < run.length; n++) if (run.every((v, i) => v === run[i % n])) return run.slice(0, n)
  return run
}

async function scanned(reader: KlvReader, parts: readonly Stretch[]): Promise<Essence> {
  const found = new Map<number, { at: number[]; size: number[] }>()
  const packs = { at: [] as number[], size: [] as number[] }
  let broken = false
  let lost: number | null = null
  const firsts: number[] = []
  const units = () => Math.max(0, ...[...found.values()].map((list) => list.at.length))
  for (const { from, to } of parts) {
    const before = units()
    for (let at = from; at < to;) {
      const klv = await reader.klv(at)
      if (!klv) lost ??= at
      if (!klv || isPartition(klv.key)) break
      const end = klv.value + klv.length
      if (end > reader.size) {
        broken = true
        break
      }
      if (isElement(klv.key)) {
        const number = trackNumber(klv.key)
        let list = found.get(number)
        if (!list) found.set(number, (list = { at: [], size: [] }))
        list.at.push(klv.value)
        list.size.push(klv.length)
      } else if (isSystemPack(klv.key)) {
        packs.at.push(klv.value)
        packs.size.push(klv.length)
      }
      at = end
    }
    if (units() > before) firsts.push(before)
  }
  const listed = ({ at, size }: typeof packs): Elements => ({
    ...{ count: at.length, at: (i) => at[i]!, size: (i) => size[i]! },
  })
  const tracks = new Map([...found].map(([number, list]) => [number, listed(list)]))
  return { tracks, firsts, system: packs.at.length ? listed(packs) : null, broken, lost }
}

/** Cuts the single element of a clip-wrapped track into edit units by the index, or by the bytes that each has. */
export function cutClip(clip: Elements, index: Index | null, unitBytes: number | null): Elements {
  const [from, length] = [clip.at(0), clip.size(0)]
  const each = unitBytes ?? index?.unitBytes ?? 0
  if (each > 0) {
    const count = Math.floor(length / each)
    return { count, at: (i) => from + i * each, size: () => each }
  }
  const entries = index?.entries ?? []
  const base = entries[0]?.offset ?? 0
  const place = (i: number) => entries[i]!.offset - base
  return {
    count: entries.filter((e) => e.offset - base < length).length,
    at: (i) => from + place(i),
    size: (i) => (i + 1 < entries.length ? Math.min(length, place(i + 1)) : length) - place(i),
  }
}

/**
 * What is wrong with a file's keys, from its first byte to its last: each follows the one before, and the essence's are
 * where, and as long as, they were taken to be. Null when nothing is.
 */
export async function keyFault(reader: KlvReader, essence: readonly Essence[]): Promise<string | null> {
  const expected = new Map<number, { readonly number: number; readonly size: number; readonly varies: boolean }>()
  for (const { tracks } of essence)
    for (const [number, t] of tracks)
      for (let i = 0; i < t.count; i++) expected.set(t.at(i), { number, size: t.size(i), varies: t.varies ?? false })
  for (let at = 0; at < reader.size;) {
    const klv = await reader.klv(at)
    if (!klv) return `there is no key at byte ${at}`
    const end = klv.value + klv.length
    if (end > reader.size) return `what begins at byte ${at} goes beyond the end`
    if (isElement(klv.key)) {
      const due = expected.get(klv.value)
      const fits = due && (due.varies ? klv.length <= due.size : klv.length === due.size)
      if (!fits || due.number !== trackNumber(klv.key))
        return `the element at byte ${at} is not where or what it should be`
      expected.delete(klv.value)
    }
    at = end
  }
  return expected.size ? `${expected.size} elements are missing` : null
}
