import type { ByteSource } from '../../bytes'
import { Reader, readExactly } from '../../bytes'
import { fail } from '../../problem'
import { child, innerBoxes, type BoxHeader, type InnerBox } from './boxes'
import type { SampleTable } from './sampletable'

interface Defaults {
  duration: number
  size: number
  flags: number
}

interface Growing {
  offsets: number[]
  sizes: number[]
  dts: number[]
  cts: number[]
  sync: number[]
  durations: number[]
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
    r.skip(4)
    out.set(id, { duration: r.u32(), size: r.u32(), flags: r.u32() })
  }
  return out
}

/** Reads every `moof` (8.8.4 to 8.8.8) and returns a sample table for each track number. */
export async function readFragments(
  source: ByteSource,
  boxes: readonly BoxHeader[],
  mvex: InnerBox,
): Promise<Map<number, SampleTable>> {
  const defaults = trackDefaults(mvex)
  const tracks = new Map<number, Growing>()
  let total = 0
  for (const box of boxes) {
    if (box.type !== 'moof' || box.truncated) continue
    if (box.size > maxFragmentIndex)
      fail(
        'mp4.table-size',
        `A fragment index of ${box.size} bytes at byte ${box.offset} is larger than makes sense.`,
        source.name,
      )
    const bytes = await readExactly(source, box.offset + box.header, box.size - box.header)
    let dataEnd = box.offset
    for (const traf of innerBoxes(new Reader(bytes, source.name, box.offset + box.header))) {
      if (traf.type !== 'traf') continue
      const parts = innerBoxes(traf.data)
      const head = child(parts, 'tfhd')?.data
      if (!head) continue
      const flags = head.u32() & 0xffffff
      const id = head.u32()
      const known = defaults.get(id)
      if (!known) continue
      const base = flags & 1 ? head.u64() : flags & 0x20000 ? box.offset : dataEnd
      if (flags & 2) head.skip(4)
      const duration = flags & 8 ? head.u32() : known.duration
      const size = flags & 0x10 ? head.u32() : known.size
      const sampleFlags = flags & 0x20 ? head.u32() : known.flags
      const t: Growing = tracks.get(id) ?? {
        offsets: [],
        sizes: [],
        dts: [],
        cts: [],
        sync: [],
        durations: [],
        time: 0,
      }
      tracks.set(id, t)
      const tfdt = child(parts, 'tfdt')?.data
      if (tfdt) {
        const version = tfdt.u8()
        tfdt.skip(3)
        t.time = version === 1 ? tfdt.u64() : tfdt.u32()
      }
      let at = base
      for (const b of parts) {
        if (b.type !== 'trun') continue
        const r = b.data
        const runFlags = r.u32() & 0xffffff
        const count = r.u32()
        if (runFlags & 1) at = base + r.i32()
        const first = runFlags & 4 ? r.u32() : null
        const width = [0x100, 0x200, 0x400, 0x800].reduce((n, f) => n + (runFlags & f ? 4 : 0), 0)
        total += count
        if (
          count * width > r.left ||
          total > maxFragmentSamples ||
          (width === 0 && count * Math.max(1, size) > source.size)
        ) {
          fail(
            'mp4.table-size',
            `A fragment at byte ${box.offset} promises ${count} samples, more than it can hold.`,
            source.name,
            'The file is damaged; copy it again from where it came from.',
          )
        }
        for (let i = 0; i < count; i++) {
          const d = runFlags & 0x100 ? r.u32() : duration
          const s = runFlags & 0x200 ? r.u32() : size
          const f = runFlags & 0x400 ? r.u32() : i === 0 && first !== null ? first : sampleFlags
          const c = runFlags & 0x800 ? r.i32() : 0
          if (at + s <= source.size) {
            t.offsets.push(at)
            t.sizes.push(s)
            t.dts.push(t.time)
            t.cts.push(c)
            t.durations.push(d)
            t.sync.push(f & 0x10000 ? 0 : 1)
          }
          at += s
          t.time += d
        }
        dataEnd = at
      }
    }
  }
  const out = new Map<number, SampleTable>()
  for (const [id, t] of tracks) {
    const zero = t.dts[0] ?? 0
    out.set(id, {
      count: t.sizes.length,
      offsets: Float64Array.from(t.offsets),
      sizes: Uint32Array.from(t.sizes),
      dts: Float64Array.from(t.dts, (v) => v - zero),
      cts: Int32Array.from(t.cts),
      sync: Uint8Array.from(t.sync),
      durations: Uint32Array.from(t.durations),
    })
  }
  return out
}
