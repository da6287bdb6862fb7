import type { Reader } from '../../bytes'
import { fail } from '../../problem'
import type { SampleRef } from '../../media/media'
import { child, type InnerBox } from './boxes'

/**
 * Where a track's samples are and when they are shown (ISO/IEC 14496-12 8.6, 8.7), expanded into typed arrays.
 * For PCM, whose samples may number hundreds of millions, chunks are kept instead (see {@link ChunkTable}).
 */
export interface SampleTable {
  readonly count: number
  readonly offsets: Float64Array
  readonly sizes: Uint32Array
  readonly dts: Float64Array
  readonly cts: Int32Array
  readonly sync: Uint8Array
  readonly durations: Uint32Array
}

export interface ChunkTable {
  readonly offsets: Float64Array
  /** First sample of each chunk, and the total at the end. */
  readonly first: Float64Array
  readonly total: number
}

/**
 * Most samples one coded track may have: 24 h at 1000 a second, and far under what tables of a hostile file promise.
 */
const maxSamples = 90_000_000

function tableCount(r: Reader, entry: number, what: string): number {
  const count = r.u32()
  if (count * entry > r.left) {
    fail(
      'mp4.table-size',
      `The ${what} table at byte ${r.base} promises ${count} entries, but its box has room for ` +
        `${Math.floor(r.left / entry)}.`,
      r.name,
      'The file is damaged; copy it again from where it came from.',
    )
  }
  return count
}

function versioned(box: InnerBox | undefined, type: string, name: string): Reader {
  if (!box)
    fail(
      'mp4.missing-box',
      `The index lacks its “${type}” table.`,
      name,
      'The file is damaged or unfinished; copy it again from where it came from.',
    )
  const r = box.data
  r.pos = 4
  return r
}

/** Chunk offsets and samples per chunk. */
export function readChunks(stbl: readonly InnerBox[], name: string, sampleCount: number): ChunkTable {
  const wide = child(stbl, 'co64')
  const r = versioned(wide ?? child(stbl, 'stco'), 'stco', name)
  const n = tableCount(r, wide ? 8 : 4, 'chunk offset')
  const offsets = new Float64Array(n)
  for (let i = 0; i < n; i++) offsets[i] = wide ? r.u64() : r.u32()
  const s = versioned(child(stbl, 'stsc'), 'stsc', name)
  const runs = tableCount(s, 12, 'sample-to-chunk')
  const first = new Float64Array(n + 1)
  const starts: [number, number][] = []
  for (let i = 0; i < runs; i++) {
    starts.push([s.u32() - 1, s.u32()])
    s.skip(4)
  }
  let at = 0
  let run = -1
  for (let c = 0; c < n; c++) {
    while (run + 1 < starts.length && starts[run + 1]![0] <= c) run++
    first[c] = at
    at += run >= 0 ? starts[run]![1] : 0
  }
  first[n] = Math.min(at, sampleCount)
  return { offsets, first, total: Math.min(at, sampleCount) }
}

/** Sample count and constant size; sizes are read later. */
export function readSizeHead(stbl: readonly InnerBox[], name: string): { count: number; constant: number } {
  const stz2 = child(stbl, 'stz2')
  if (stz2) {
    const r = versioned(stz2, 'stz2', name)
    r.skip(4)
    return { count: r.u32(), constant: 0 }
  }
  const r = versioned(child(stbl, 'stsz'), 'stsz', name)
  const constant = r.u32()
  return { count: r.u32(), constant }
}

function readSizes(stbl: readonly InnerBox[], name: string, fileSize: number): Uint32Array {
  const { count, constant } = readSizeHead(stbl, name)
  if (count > maxSamples || (constant > 0 && count * constant > fileSize)) {
    fail(
      'mp4.table-size',
      `The sample size table promises ${count} samples, more than the file can hold.`,
      name,
      'The file is damaged; copy it again from where it came from.',
    )
  }
  const stz2 = child(stbl, 'stz2')
  if (constant > 0) return new Uint32Array(count).fill(constant)
  if (stz2) {
    const r = stz2.data
    r.pos = 7
    const bits = r.u8()
    r.skip(4)
    if (count * bits > r.left * 8) fail('mp4.table-size', 'The compact sample size table is longer than its box.', name)
    const sizes = new Uint32Array(count)
    for (let i = 0; i < count; i++) {
      if (bits === 4) {
        const b = r.bytes[r.pos + (i >> 1)]!
        sizes[i] = i & 1 ? b & 15 : b >> 4
      } else sizes[i] = bits === 8 ? r.u8() : r.u16()
    }
    return sizes
  }
  const r = versioned(child(stbl, 'stsz'), 'stsz', name)
  r.skip(4)
  const n = tableCount(r, 4, 'sample size')
  const sizes = new Uint32Array(n)
  for (let i = 0; i < n; i++) sizes[i] = r.u32()
  return sizes
}

/** Expands the tables of one coded track. Samples beyond the end of the file are left off; `cut` says so. */
export function readSampleTable(
  stbl: readonly InnerBox[],
  name: string,
  fileSize: number,
): SampleTable & { cut: boolean } {
  const sizes = readSizes(stbl, name, fileSize)
  const chunks = readChunks(stbl, name, sizes.length)
  const offsets = new Float64Array(chunks.total)
  let count = 0
  let cut = false
  for (let c = 0; c < chunks.offsets.length && !cut; c++) {
    let at = chunks.offsets[c]!
    for (let i = chunks.first[c]!; i < chunks.first[c + 1]! && i < chunks.total; i++) {
      if (at + sizes[i]! > fileSize) {
        cut = true
        break
      }
      offsets[i] = at
      at += sizes[i]!
      count = i + 1
    }
  }
  const dts = new Float64Array(count)
  const durations = new Uint32Array(count)
  const t = versioned(child(stbl, 'stts'), 'stts', name)
  let at = 0
  let time = 0
  for (let runs = tableCount(t, 8, 'time-to-sample'); runs > 0 && at < count; runs--) {
    const n = t.u32()
    const delta = t.u32()
    for (let i = 0; i < n && at < count; i++) {
      dts[at] = time
      durations[at++] = delta
      time += delta
    }
  }
  if (at < count)
    fail(
      'mp4.table-size',
      `The time table covers ${at} of ${count} samples.`,
      name,
      'The file is damaged; copy it again from where it came from.',
    )
  const cts = new Int32Array(count)
  const ctts = child(stbl, 'ctts')
  if (ctts) {
    const r = versioned(ctts, 'ctts', name)
    let i = 0
    for (let runs = tableCount(r, 8, 'composition offset'); runs > 0 && i < count; runs--) {
      const n = r.u32()
      const offset = r.i32()
      const end = Math.min(count, i + n)
      cts.fill(offset, i, end)
      i = end
    }
  }
  const sync = new Uint8Array(count)
  const stss = child(stbl, 'stss')
  if (!stss) sync.fill(1)
  else {
    const r = versioned(stss, 'stss', name)
    for (let n = tableCount(r, 4, 'sync sample'); n > 0; n--) {
      const s = r.u32() - 1
      if (s < count) sync[s] = 1
    }
  }
  return { count, offsets, sizes: sizes.subarray(0, count), dts, cts, sync, durations, cut }
}

/** One sample of a table. */
export function sampleAt(t: SampleTable, i: number): SampleRef {
  return { offset: t.offsets[i]!, size: t.sizes[i]!, dts: t.dts[i]!, pts: t.dts[i]! + t.cts[i]!, sync: t.sync[i] === 1 }
}
