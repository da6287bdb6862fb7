import { pictureCodec } from '../codec/registry'
import type { MediaInfo } from '../media/media'
import type { Output } from '../recipe/output'
import { mostTogether } from './steps'

// How much memory a worker takes: what was measured of worker processes at 1080 and 2160 lines (docs/performance.md),
// or up to half as much again, since one that has done much has more than a fresh one.

/** Bytes of a worker that has nothing in hand, and of what earlier steps left to it. */
const idle = 250e6
/** Pictures that are held while they are read, and while they are coded: of codecs of the package, and of our own. */
const held = { read: { package: 35, own: 5 }, coded: { package: 30, own: 20 } } as const

/** Bytes of memory that a deliverable takes of a worker. */
export interface MemoryNeed {
  /** Of the worker and what it reads: those that read the same pictures together share it. */
  readonly shared: number
  /** Of what it codes. */
  readonly own: number
}

const chroma = { '4:2:0': 1.5, '4:2:2': 2, '4:4:4': 3, gray: 1 } as const

/** Bytes of a decoded picture: a byte or two a sample. */
function pictureBytes(v: { width: number; height: number; chroma: string; bitDepth: number }): number {
  const samples = chroma[v.chroma as keyof typeof chroma] ?? chroma['4:4:4']
  return v.width * v.height * samples * (v.bitDepth > 8 ? 2 : 1)
}

/** About how much memory a worker needs for a deliverable; `coded` are the pictures made for it, null of none. */
export function memoryNeed(source: MediaInfo, coded: Output['video']): MemoryNeed {
  const by = (needsWeb: boolean | undefined) => (needsWeb ? 'package' : 'own')
  const read = source.video.map((v) => pictureBytes(v) * held.read[by(pictureCodec(v.codec)?.decode.needsWeb)])
  const own = coded ? pictureBytes(coded) * held.coded[by(pictureCodec(coded.codec)?.encode?.needsWeb)] : 0
  return { shared: Math.round(idle + Math.max(0, ...read)), own: Math.round(own) }
}

/** How many bytes a worker needs at most for any of a list, those with one mark in `reads` made together. */
export function mostMemory(list: readonly { readonly reads: string | null; readonly memory: MemoryNeed }[]): number {
  const groups = new Map<string, MemoryNeed[]>()
  let most = 0
  for (const { reads, memory } of list) {
    most = Math.max(most, memory.shared + memory.own)
    if (reads !== null) groups.set(reads, [...(groups.get(reads) ?? []), memory])
  }
  for (const group of groups.values()) {
    const own = group.map((m) => m.own).sort((a, b) => b - a)
    const shared = Math.max(...group.map((m) => m.shared))
    most = Math.max(most, shared + own.slice(0, mostTogether).reduce((n, v) => n + v, 0))
  }
  return most
}
