import { concatBytes, readExactly, Reader, type ByteSource } from '../../bytes'
import { ancillaryMeter, serviceLabel, serviceOf } from '../../media/ancillary'
import type { DataInfo, DataTrack, LinesKind } from '../../media/media'
import type { Packet } from '../../media/packet'
import { fail } from '../../problem'
import { plural } from '../../text'
import type { Elements } from './elements'
import type { DataOf } from './programme'

// Lines of the blanking in MXF, frame by frame: ancillary packets and VBI (SMPTE ST 436-1).

/** A line's samples as an element has them. */
interface Line {
  readonly number: number
  /** How samples are coded (ST 436-1 table 8): 4 to 6 and 10 to 12 of 8 bits, 7 to 9 of 10 bits. */
  readonly coding: number
  readonly samples: number
  readonly payload: Uint8Array
  /** Its bytes, what tells of it included. */
  readonly bytes: Uint8Array
}

/** Bytes of an element that are read at most: a few hundred packets. */
const most = 1 << 18

/** The lines of an element, and how many bytes they take; null where it is none of such lines (ST 436-1 7). */
function linesOf(bytes: Uint8Array): { readonly lines: readonly Line[]; readonly length: number } | null {
  const r = new Reader(bytes)
  if (r.left < 2) return null
  const lines: Line[] = []
  for (let left = r.u16(); left > 0; left--) {
    if (r.left < 14) return null
    const from = bytes.length - r.left
    const number = r.u16()
    // which field or frame it is of
    r.skip(1)
    const [coding, samples] = [r.u8(), r.u16()]
    const [count, size] = [r.u32(), r.u32()]
    if (size !== 1 || count > r.left) return null
    const payload = r.part(count)
    lines.push({ number, coding, samples, payload, bytes: bytes.subarray(from, bytes.length - r.left) })
  }
  return { lines, length: bytes.length - r.left }
}

/** Eight bits of each sample of ten: three of them in four bytes. */
function ofTen({ samples, payload }: Line): Uint8Array | null {
  const out = new Uint8Array(samples)
  for (let i = 0; i < samples; i++) {
    const at = Math.floor(i / 3) * 4
    if (at + 4 > payload.length) return null
    const word = ((payload[at]! << 24) | (payload[at + 1]! << 16) | (payload[at + 2]! << 8) | payload[at + 3]!) >>> 0
    const sample = (word >>> (22 - 10 * (i % 3))) & 0x3ff
    // the two highest bits are a parity and its opposite in identifiers and counts (ST 291-1 6)
    if (i < 3 && sample >> 9 === ((sample >> 8) & 1)) return null
    out[i] = sample & 0xff
  }
  return out
}

/** The packet of a line; null where its samples are not understood. */
function packetOf(line: Line): Packet | null {
  const { coding, payload, samples } = line
  const ten = coding >= 7 && coding <= 9
  if (!ten && !(coding >= 4 && coding <= 6) && !(coding >= 10 && coding <= 12)) return null
  const words = ten ? ofTen(line) : payload.subarray(0, Math.min(samples, payload.length))
  if (!words || words.length < 3) return null
  const [did, sdid, count] = words as unknown as [number, number, number]
  return 3 + count > words.length ? null : { did, sdid, words: words.subarray(3, 3 + count) }
}

/** The packets of an element, those that are understood. */
function packetsOf(element: Uint8Array): Packet[] {
  return (linesOf(element)?.lines ?? []).flatMap((l) => packetOf(l) ?? [])
}

function without(element: Uint8Array, drop: (p: Packet) => boolean): Uint8Array {
  const lines = linesOf(element)?.lines ?? []
  const kept = lines.filter((l) => {
    const packet = packetOf(l)
    return !packet || !drop(packet)
  })
  if (kept.length === lines.length) return element
  return concatBytes([Uint8Array.of(kept.length >> 8, kept.length & 255), ...kept.map((l) => l.bytes)])
}

/** An element without lines. */
export const noLines = new Uint8Array(2)

/** The lines of an element by their numbers, in words; null where it is none of such lines. */
export function lineTexts(element: Uint8Array): { readonly number: number; readonly text: string }[] | null {
  const found = linesOf(element)
  return (
    found &&
    found.lines.map((l) => {
      const { number, samples } = l
      const packet = packetOf(l)
      if (!packet) return { number, text: plural(samples, 'sample') }
      const kind = [packet.did, packet.sdid].map((n) => n.toString(16).padStart(2, '0')).join('/')
      return { number, text: `${serviceLabel(serviceOf(packet))} (${kind}), ${plural(packet.words.length, 'word')}` }
    })
  )
}

/** Frames that are looked at on opening, from the first to the last. */
const looked = 12

/** What a track carries by its descriptor, or by its elements' number (ST 436-1 5.2): 1 VBI, 2 ancillary packets. */
export function kindOfData({ kind, number }: DataOf): DataInfo['kind'] {
  if (kind === 'ancillary' || kind === 'vbi') return kind
  if (number >>> 24 !== 0x17) return 'other'
  return (['vbi', 'ancillary'] as const)[((number >> 8) & 0xff) - 1] ?? 'other'
}

/** A track of lines of the blanking; what its packets carry is told from some of its frames. */
export async function linesTrack(
  source: ByteSource,
  track: DataOf,
  kind: LinesKind,
  elements: Elements,
): Promise<DataTrack> {
  const { start } = track
  const frames = Math.max(0, elements.count - start)
  const read = async (frame: number): Promise<Uint8Array> => {
    const i = frame + start
    const [at, room] = [elements.at(i), elements.size(i)]
    const bytes = await readExactly(source, at, Math.min(room, most))
    const found = linesOf(bytes)
    if (found) return bytes.subarray(0, found.length)
    return fail(
      'mxf.lines',
      `Ancillary data at byte ${at} is not laid out as such data is.`,
      source.name,
      'The file is damaged there; copy it again from where it came from.',
    )
  }
  const meter = ancillaryMeter()
  const places = new Set(Array.from({ length: looked }, (_, i) => Math.floor((i * (frames - 1)) / (looked - 1))))
  for (const n of frames > 0 ? places : []) meter.feed(packetsOf(await read(n).catch(() => noLines)), n)
  const label = kind === 'vbi' ? 'VBI lines' : 'ancillary data'
  const info: DataInfo = { kind, label, carries: Object.keys(meter.result().services) }
  return { info, frames, read, packets: packetsOf, without }
}
