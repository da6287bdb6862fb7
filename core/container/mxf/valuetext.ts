import { Reader } from '../../bytes'
import { hex } from './labels'
import type { Property } from './tags'

// Values of properties, in words: by what the property is, else by how long they are (SMPTE ST 377-1 4.2, 4.3).

const texts = new Set<Property>(['company', 'product', 'versionText', 'packageName', 'trackName', 'eventComment'])
const dates = new Set<Property>(['modified', 'created', 'packageModified', 'identified'])
const rationals = new Set<Property>([
  ...(['editRate', 'sampleRate', 'aspectRatio', 'soundRate', 'eventRate', 'indexEditRate'] as const),
])
const flags = new Set<Property>(['dropFrame', 'locked'])
const lists = new Set<Property>([
  ...(['identifications', 'essenceContainers', 'schemes', 'packages', 'essenceData', 'tracks', 'components'] as const),
  ...(['subDescriptors', 'furtherDescriptors', 'lineMap', 'deltas', 'entries'] as const),
])
const shown = 4

function dateText(r: Reader): string {
  const [y, m, d, h, min, s] = [r.u16(), r.u8(), r.u8(), r.u8(), r.u8(), r.u8()]
  const two = (v: number) => String(v).padStart(2, '0')
  return y === 0 ? 'not told' : `${y}-${two(m)}-${two(d)} ${two(h)}:${two(min)}:${two(s)}`
}

function listText(r: Reader): string {
  const [count, size] = [r.u32(), r.u32()]
  const entries: string[] = []
  while (entries.length < Math.min(count, shown) && size > 0 && r.left >= size)
    entries.push(size === 4 ? String(r.i32()) : hex(r.part(size)))
  return count === 0 ? 'none' : `${count}: ${entries.join(', ')}${count > entries.length ? ' …' : ''}`
}

/** A value of a property, or of one that is not known here. */
export function valueText(name: Property | null, bytes: Uint8Array): string {
  const r = new Reader(bytes)
  if (name && texts.has(name)) return new TextDecoder('utf-16be').decode(bytes).replace(/\0[^]*$/, '')
  if (name && dates.has(name) && bytes.length === 8) return dateText(r)
  if (name && rationals.has(name) && bytes.length === 8) return `${r.i32()}/${r.i32()}`
  if (name && flags.has(name) && bytes.length === 1) return r.u8() ? 'yes' : 'no'
  if (name && lists.has(name) && bytes.length >= 8) return listText(r)
  if (bytes.length === 1) return String(r.u8())
  if (bytes.length === 2) return String(r.u16())
  if (bytes.length === 4) return String(r.u32())
  if (bytes.length === 8) return String(r.i64())
  return bytes.length <= 32 ? hex(bytes) : `${hex(bytes.subarray(0, 24))} … (${bytes.length} bytes)`
}
