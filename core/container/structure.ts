import { Reader, type ByteSource } from '../bytes'

// What a file is made of, piece by piece, to be looked at: heads are read one after the other, contents when asked for.

/** One piece of a file: a box, a chunk, an element, a key with its value. */
export interface Part {
  /** As the file itself calls it: `moov`, `fmt `, the digits of a key. */
  readonly name: string
  /** What that is, in words; empty where it is not known here. */
  readonly label: string
  /** Bytes from the beginning of the file to its own. */
  readonly offset: number
  /** Bytes of all of it; where the file ends before, of what is there. */
  readonly size: number
  /** Bytes before what it holds. */
  readonly head: number
  /** Where the parts within it begin; null where it has none. */
  readonly within: number | null
  /** The name of the part it stands in, and where that begins; of the outermost none. */
  readonly of: { readonly name: string; readonly offset: number } | null
  /** What is wrong with it, in a sentence; null when nothing is. */
  readonly fault: string | null
}

/** A value that a part holds, in words. */
export interface PartField {
  readonly name: string
  readonly value: string
}

/** Some of the parts of a file or a part, in order. */
export interface Parts {
  readonly parts: readonly Part[]
  /** Where more of them begin; null when these are the last. */
  readonly next: number | null
}

/** How a container's files are taken apart. */
export interface Structure {
  /**
   * The part that begins at a place within another, whose contents end at `end`; null where no part can begin. Parts
   * follow each other without a gap.
   */
  part(source: ByteSource, at: number, end: number, of: Part | null): Promise<Part | null>
  /** Parts of a whole file, where they are not simply one after the other from its first byte. */
  top?(source: ByteSource): Promise<Part[]>
  /** What a part says; `r` has its contents, or the beginning of long ones. */
  fields(part: Part, r: Reader, source: ByteSource): Promise<PartField[]> | PartField[]
}

/** How many parts are given at a time. */
export const partsAtATime = 200
/** As much of a part is read for its fields, at most: tables show how they begin. */
const mostRead = 1 << 16

/** A part of which something is wrong. */
export const faulty = (part: Part, fault: string): Part => ({ ...part, fault })

/** The parts of a file, or of one of its parts, from a place on. */
export async function partsOf(s: Structure, source: ByteSource, of: Part | null, from?: number): Promise<Parts> {
  if (of === null && s.top) return { parts: await s.top(source), next: null }
  const end = of ? of.offset + of.size : source.size
  const parts: Part[] = []
  let at = from ?? of?.within ?? 0
  for (; at < end && parts.length < partsAtATime;) {
    const part = await s.part(source, at, end, of)
    const whole = part && part.size > 0 ? part : unreadable(at, end, of)
    parts.push(whole)
    at = whole.offset + whole.size
  }
  return { parts, next: at < end ? at : null }
}

/** What is left of a part, where nothing that is known can begin. */
function unreadable(at: number, end: number, of: Part | null): Part {
  return {
    ...{ name: '', label: 'bytes that are no part', offset: at, size: end - at, head: 0, within: null },
    of: of && { name: of.name, offset: of.offset },
    fault: `No part begins at byte ${at}; the ${end - at} bytes from there on cannot be told apart.`,
  }
}

/** What a part says. What breaks off is told as far as it goes. */
export async function fieldsOf(s: Structure, source: ByteSource, part: Part): Promise<PartField[]> {
  const body = part.offset + part.head
  const bytes = await source.read(body, Math.min(part.size - part.head, mostRead))
  try {
    return await s.fields(part, new Reader(bytes, source.name, body), source)
  } catch {
    return [{ name: 'contents', value: 'they end before what they should hold' }]
  }
}

/** A part whose size may reach beyond what holds it: then only what is there counts, and that is said. */
export function fitted(part: Omit<Part, 'fault'>, end: number): Part {
  const there = end - part.offset
  if (part.size <= there) return { ...part, fault: null }
  return {
    ...{ ...part, size: there },
    fault: `It should be ${part.size} bytes long; ${there} are there.`,
  }
}

/** A list shown by how many entries it has and how it begins. */
export function listField(name: string, count: number, entries: readonly string[]): PartField {
  const more = count > entries.length ? ' …' : ''
  return { name, value: count === 0 ? 'none' : `${count}: ${entries.join(', ')}${more}` }
}

/** How many entries of a list are shown. */
export const shownEntries = 12
