import { Reader, type ByteSource, ForwardReader } from '../../bytes'
import { fail, type Problem } from '../../problem'
import { hex, keys } from './labels'

/** A key, the length of its value, and where both stand. */
export interface Klv {
  readonly key: string
  readonly at: number
  /** Where the value begins. */
  readonly value: number
  readonly length: number
}

/** A partition of a file as its pack describes it (SMPTE ST 377-1 7.1). */
export interface Partition {
  readonly kind: 'header' | 'body' | 'footer'
  readonly closed: boolean
  readonly complete: boolean
  readonly at: number
  readonly previous: number
  readonly footer: number
  readonly headerBytes: number
  readonly indexBytes: number
  readonly indexSid: number
  readonly bodyOffset: number
  readonly bodySid: number
  readonly pattern: string
  /** Where what follows the pack begins. */
  readonly end: number
}

/** Kinds of partition by the byte of their pack's key. */
export const partitionKinds: Readonly<Record<string, Partition['kind']>> = {
  '02': 'header',
  '03': 'body',
  '04': 'footer',
}
const most = 100_000

/** Reads through a file, key by key (SMPTE ST 336). */
export class KlvReader extends ForwardReader {
  get size(): number {
    return this.source.size
  }

  /** The key and length at a place; null at the end of the file, or where there is no such thing. */
  async klv(at: number): Promise<Klv | null> {
    const head = await this.at(at, 25)
    if (head.length < 17 || hex(head.subarray(0, 4)) !== '060e2b34') return null
    const first = head[16]!
    let length = first
    let bytes = 0
    if (first & 0x80) {
      bytes = first & 0x7f
      if (bytes === 0 || bytes > 8 || head.length < 17 + bytes) return null
      length = 0
      for (let i = 0; i < bytes; i++) length = length * 256 + head[17 + i]!
    }
    if (!Number.isSafeInteger(length)) return null
    return { key: hex(head.subarray(0, 16)), at, value: at + 17 + bytes, length }
  }

  /** The value of a key; a fault when it is longer than makes sense, or breaks off. */
  async value({ value, length, key, at }: Klv, longest = 1 << 26): Promise<Reader> {
    if (length > longest)
      fail(
        'mxf.value-size',
        `The value of ${key} at byte ${at} claims ${length} bytes, more than makes sense.`,
        this.source.name,
        'The file is damaged; copy it again from where it came from.',
      )
    return new Reader(await this.source.read(value, length), this.source.name, value)
  }
}

export const isPartition = (key: string) => keys.anyPartition.test(key)
export const isFill = (key: string) => keys.anyFill.test(key)

/** Reads the pack at a place; null where none is, or where it breaks off. */
export async function readPartition(reader: KlvReader, at: number): Promise<Partition | null> {
  const klv = await reader.klv(at)
  if (!klv || !isPartition(klv.key) || klv.value + klv.length > reader.size || klv.length < 80) return null
  const kind = partitionKinds[klv.key.slice(26, 28)]
  if (!kind) return null
  const state = parseInt(klv.key.slice(28, 30), 16)
  const r = await reader.value(klv)
  r.skip(8 + 8)
  const [previous, footer, headerBytes, indexBytes] = [r.u64(), r.u64(), r.u64(), r.u64()]
  const [indexSid, bodyOffset, bodySid] = [r.u32(), r.u64(), r.u32()]
  return {
    kind,
    closed: state === 2 || state === 4,
    complete: state >= 3,
    ...{ at, previous, footer, headerBytes, indexBytes, indexSid, bodyOffset, bodySid },
    pattern: hex(r.part(16)),
    end: klv.value + klv.length,
  }
}

/** Whether a place is where the file says a partition is; run-ins are not read. */
async function known(reader: KlvReader, at: number, there: Map<number, Partition>): Promise<Partition | null> {
  const before = there.get(at)
  if (before) return before
  const p = await readPartition(reader, at)
  if (p) there.set(at, p)
  return p
}

/**
 * All partitions, in order: those the random index names, else those that each says come before it, else those that are
 * met on the way through the file. What is missing of them is said.
 */
export async function partitionsOf(source: ByteSource, problems: Problem[]): Promise<Partition[]> {
  const reader = new KlvReader(source)
  const there = new Map<number, Partition>()
  const head =
    (await known(reader, 0, there)) ??
    fail(
      'mxf.no-header',
      'The file does not begin with a header partition.',
      source.name,
      'Files with a run-in are not read here; ask for one without.',
    )
  const listed = await randomIndex(source, reader)
  let whole = listed !== null
  for (const at of listed ?? []) if (!(await known(reader, at, there))) whole = false
  for (let at = head.footer, n = 0; at > 0 && n < most; n++) {
    const p = await known(reader, at, there)
    if (!p) break
    if (p.kind === 'footer' && !listed) whole = true
    if (p.previous >= at) break
    at = p.previous
  }
  if (!whole) {
    await hop(reader, head, there)
    problems.push({
      code: 'mxf.not-closed',
      damage: true,
      message:
        'The file was not closed, or its end is missing: there is no random index, nor a footer where one should be. ' +
        'What there is was found by going through it.',
      where: source.name,
      fix: 'Wait until it is written, or copy it again from where it came from.',
    })
  }
  return [...there.values()].sort((a, b) => a.at - b.at)
}

/** Where partitions are, as the last thing in the file says (ST 377-1 12); null when it is not there. */
export async function randomIndex(source: ByteSource, reader: KlvReader): Promise<number[] | null> {
  if (source.size < 40) return null
  const length = new Reader(await source.read(source.size - 4, 4)).u32()
  if (length < 40 || length > source.size) return null
  const klv = await reader.klv(source.size - length)
  if (klv?.key !== keys.randomIndex || klv.value + klv.length !== source.size) return null
  const r = await reader.value(klv)
  const places: number[] = []
  while (r.left >= 16) {
    r.skip(4)
    places.push(r.u64())
  }
  return places
}

/** Goes from key to key through the file, and keeps the partitions it meets. */
async function hop(reader: KlvReader, head: Partition, there: Map<number, Partition>): Promise<void> {
  for (let at = head.end; at < reader.size;) {
    const klv = await reader.klv(at)
    if (!klv) return
    if (isPartition(klv.key)) await known(reader, at, there)
    at = klv.value + klv.length
  }
}
