import { Writer } from '../../bytes'
import { box, fullBox } from './boxwriter'
import type { WrapTrack } from './movie'

function countOf(t: WrapTrack): number {
  return t.sizes instanceof Uint32Array ? t.sizes.length : t.sizes.count
}

/** In ticks of the track's timescale. */
export function trackDuration(t: WrapTrack): number {
  if (!(t.durations instanceof Uint32Array)) return t.durations.constant * countOf(t)
  let sum = 0
  for (const d of t.durations) sum += d
  return sum
}

/** Run-length pairs (count, value) of a table. */
function runs(n: number, value: (i: number) => number, write: (w: Writer, v: number) => void): Uint8Array {
  const w = new Writer()
  let entries = 0
  for (let i = 0; i < n;) {
    const v = value(i)
    let k = i + 1
    while (k < n && value(k) === v) k++
    w.u32(k - i)
    write(w, v)
    entries++
    i = k
  }
  return new Writer().u32(entries).raw(w.bytes()).bytes()
}

/**
 * The `stbl` of a track whose chunks count from `dataStart`; `wide` offsets have 64 bits (ISO/IEC 14496-12 8.5 to 8.7).
 */
export function sampleTable(t: WrapTrack, dataStart: number, wide: boolean): Uint8Array {
  const n = countOf(t)
  const boxes: Uint8Array[] = [fullBox('stsd', 0, 0, new Writer().u32(1).bytes(), t.sampleEntry)]
  const d = t.durations
  boxes.push(
    fullBox(
      'stts',
      0,
      0,
      d instanceof Uint32Array
        ? runs(
            n,
            (i) => d[i]!,
            (w, v) => w.u32(v),
          )
        : new Writer().u32(1).u32(n).u32(d.constant).bytes(),
    ),
  )
  const cts = t.cts
  if (cts)
    boxes.push(
      fullBox(
        'ctts',
        cts.some((v) => v < 0) ? 1 : 0,
        0,
        runs(
          n,
          (i) => cts[i]!,
          (w, v) => w.i32(v),
        ),
      ),
    )
  if (t.sync) {
    const w = new Writer()
    let count = 0
    t.sync.forEach((s, i) => {
      if (s) {
        w.u32(i + 1)
        count++
      }
    })
    boxes.push(fullBox('stss', 0, 0, new Writer().u32(count).raw(w.bytes()).bytes()))
  }
  const stsc = new Writer()
  let entries = 0
  t.chunks.forEach((c, i) => {
    if (i > 0 && t.chunks[i - 1]!.samples === c.samples) return
    stsc
      .u32(i + 1)
      .u32(c.samples)
      .u32(1)
    entries++
  })
  boxes.push(fullBox('stsc', 0, 0, new Writer().u32(entries).raw(stsc.bytes()).bytes()))
  if (t.sizes instanceof Uint32Array) {
    const w = new Writer().u32(0).u32(n)
    for (const s of t.sizes) w.u32(s)
    boxes.push(fullBox('stsz', 0, 0, w.bytes()))
  } else boxes.push(fullBox('stsz', 0, 0, new Writer().u32(t.sizes.constant).u32(n).bytes()))
  const offsets = new Writer().u32(t.chunks.length)
  for (const c of t.chunks) {
    if (wide) offsets.u64(dataStart + c.offset)
    else offsets.u32(dataStart + c.offset)
  }
  boxes.push(fullBox(wide ? 'co64' : 'stco', 0, 0, offsets.bytes()))
  return box('stbl', ...boxes)
}
