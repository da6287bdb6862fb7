import type { ByteSource } from '../../bytes'
import { Reader, readExactly } from '../../bytes'
import { fail } from '../../problem'
import { child, innerBoxes, type BoxHeader, type InnerBox } from './boxes'
import type { SampleTable } from './sampletable'

interface Defaults {
  /** Which sample entry describes them, from 1. */
  entry: number
  duration: number
  size: number
  flags: number
}

/** The samples of a track's fragments. */
export interface FragmentTable extends SampleTable {
  /** How many sample entries describe them. */
  readonly entries: number
}

interface Growing {
  offsets: number[]
  sizes: number[]
  dts: number[]
  cts: number[]
  sync: number[]
  durations: number[]
  entries: Set<number>
  time: number
}

const maxFragmentSamples = 20_000_000
const maxFragmentIndex = 64 << 20

/** Track defaults from `mvex` (ISO/IEC 14496-12 8.8.3), by track number. */
function trackDefaults(mvex: InnerBox): Map<number, Defaults> {
  const out = new Map<number, Defaults>()
  for (const b of innerBoxes(mvex.data)) {
    if (b.type !== 'trex') continue
    const r = b.data
    r.skip(4)
    const id = r.u32()
    out.set(id, { entry: r.u32(), duration: r.u32(), size: r.u32(), flags: r.u32() })
  }
  return out
}

/** Reads every `moof` (8.8.4 to 8.8.8) and returns a sample table for each track number. */
export async function readFragments(
  source: ByteSource,
  boxes: readonly BoxHeader[],
  mvex: InnerBox,
  timescaleOf: (track: number) => number,
): Promise<Map<number, FragmentTable>> {
  const reader = new FragmentReader(source.name, source.size, trackDefaults(mvex))
  for (const box of boxes) {
    if (box.type !== 'moof' || box.truncated) continue
    if (box.size > maxFragmentIndex)
      fail(
        'mp4.table-size',
        `A fragment index of ${box.size} bytes at byte ${box.offset} is larger than makes sense.`,
        source.name,
      )
    const bytes = await readExactly(source, box.offset + box.header, box.size - box.header)
    reader.fragment(new Reader(bytes, source.name, box.offset + box.header), box.offset)
  }
  return reader.tables(timescaleOf)
}

class FragmentReader {
  private readonly tracks = new Map<number, Growing>()
  private total = 0

  constructor(
    private readonly name: string,
    private readonly fileSize: number,
    private readonly defaults: ReadonlyMap<number, Defaults>,
  ) {}

  /** Takes one `moof` that begins at a byte of the file. */
  fragment(moof: Reader, offset: number): void {
    let dataEnd = offset
    for (const traf of innerBoxes(moof))
      if (traf.type === 'traf') dataEnd = this.track(innerBoxes(traf.data), offset, dataEnd) ?? dataEnd
  }

  /** Takes one `traf`; gives where its data ends, or null when it is of no known track. */
  private track(parts: readonly InnerBox[], offset: number, dataEnd: number): number | null {
    const head = child(parts, 'tfhd')?.data
    if (!head) return null
    const flags = head.u32() & 0xffffff
    const id = head.u32()
    const known = this.defaults.get(id)
    if (!known) return null
    const base = flags & 1 ? head.u64() : flags & 0x20000 ? offset : dataEnd
    const own: Defaults = {
      entry: flags & 2 ? head.u32() : known.entry,
      duration: flags & 8 ? head.u32() : known.duration,
      size: flags & 0x10 ? head.u32() : known.size,
      flags: flags & 0x20 ? head.u32() : known.flags,
    }
    const lists = { offsets: [], sizes: [], dts: [], cts: [], sync: [], durations: [] }
    const t = this.tracks.get(id) ?? { ...lists, entries: new Set<number>(), time: 0 }
    this.tracks.set(id, t)
    t.entries.add(own.entry)
    const tfdt = child(parts, 'tfdt')?.data
    if (tfdt) {
      const version = tfdt.u8()
      tfdt.skip(3)
      t.time = version === 1 ? tfdt.u64() : tfdt.u32()
    }
    let at = base
    for (const b of parts) if (b.type === 'trun') at = this.run(b.data, t, own, base, at, offset)
    return at
  }

  /** Takes one `trun` whose samples stand at `at` unless it says otherwise; gives where they end. */
  private run(r: Reader, t: Growing, own: Defaults, base: number, at: number, offset: number): number {
    const flags = r.u32() & 0xffffff
    const count = r.u32()
    if (flags & 1) at = base + r.i32()
    const first = flags & 4 ? r.u32() : null
    const width = [0x100, 0x200, 0x400, 0x800].reduce((n, f) => n + (flags & f ? 4 : 0), 0)
    this.total += count
    if (
      count * width > r.left ||
      this.total > maxFragmentSamples ||
      (width === 0 && count * Math.max(1, own.size) > this.fileSize)
    )
      fail(
        'mp4.table-size',
        `A fragment at byte ${offset} promises ${count} samples, more than it can hold.`,
        this.name,
        'The file is damaged; copy it again from where it came from.',
      )
    for (let i = 0; i < count; i++) {
      const duration = flags & 0x100 ? r.u32() : own.duration
      const size = flags & 0x200 ? r.u32() : own.size
      const sample = flags & 0x400 ? r.u32() : i === 0 && first !== null ? first : own.flags
      const composition = flags & 0x800 ? r.i32() : 0
      if (at + size <= this.fileSize) {
        t.offsets.push(at)
        t.sizes.push(size)
        t.dts.push(t.time)
        t.cts.push(composition)
        t.durations.push(duration)
        t.sync.push(sample & 0x10000 ? 0 : 1)
      }
      at += size
      t.time += duration
    }
    return at
  }

  /** A table for each track, in its own timescale; time counts from the earliest sample of all. */
  tables(timescaleOf: (track: number) => number): Map<number, FragmentTable> {
    const tracks = [...this.tracks].filter(([, t]) => t.dts.length > 0)
    const origin = Math.min(...tracks.map(([id, t]) => t.dts[0]! / timescaleOf(id)))
    return new Map(
      tracks.map(([id, t]) => {
        const zero = Math.min(t.dts[0]!, Math.round(origin * timescaleOf(id)))
        return [
          id,
          {
            count: t.sizes.length,
            entries: t.entries.size,
            offsets: Float64Array.from(t.offsets),
            sizes: Uint32Array.from(t.sizes),
            dts: Float64Array.from(t.dts, (v) => v - zero),
            cts: Int32Array.from(t.cts),
            sync: Uint8Array.from(t.sync),
            durations: Uint32Array.from(t.durations),
          },
        ]
      }),
    )
  }
}
