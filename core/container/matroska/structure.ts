import type { ByteSource } from '../../bytes'
import { fitted, type Part, type PartField, type Structure } from '../structure'
import { float, unsigned, variable, words } from './ebml'
import { elementKinds } from './elementkinds'

const hexOf = (id: number) => id.toString(16).toUpperCase()

interface Head {
  readonly id: number
  readonly head: number
  readonly size: number
  readonly unknown: boolean
}

async function headAt(source: ByteSource, at: number, end: number): Promise<Head | null> {
  const bytes = await source.read(at, Math.min(12, end - at))
  const id = variable(bytes, 0, true)
  if (!id || id.length > 4) return null
  const size = variable(bytes, id.length, false)
  return size && { id: id.value, head: id.length + size.length, size: size.value, unknown: size.unknown }
}

/** Bytes of an element that does not say how many it has: up to one of its own level or above (RFC 8794 6.2). */
async function unknownSize(source: ByteSource, body: number, end: number, level: number): Promise<number> {
  let at = body
  for (let n = 0; at < end && n < 1_000_000; n++) {
    const inner = await headAt(source, at, end)
    if (!inner) break
    const kind = elementKinds.get(inner.id)
    if (kind?.level !== undefined && kind.level <= level) break
    if (inner.unknown) return end - body
    at += inner.head + inner.size
  }
  return Math.min(at, end) - body
}

/** Elements of a file (RFC 8794, RFC 9559). */
export const matroskaStructure: Structure = {
  async part(source, at, end, of) {
    const h = await headAt(source, at, end)
    if (!h) return null
    const kind = elementKinds.get(h.id)
    const body = h.unknown ? await unknownSize(source, at + h.head, end, kind?.level ?? 9) : h.size
    return fitted(
      {
        ...{ name: hexOf(h.id), label: kind?.label ?? '', offset: at, size: h.head + body, head: h.head },
        within: kind?.value === 'parts' ? at + h.head : null,
        of: of && { name: of.name, offset: of.offset },
      },
      end,
    )
  },
  fields(part, r) {
    const kind = elementKinds.get(parseInt(part.name, 16))
    if (!kind || kind.value === 'parts') return []
    return [{ name: kind.label, value: valueText(kind.value, r.part(r.left), part) }]
  },
}

function valueText(kind: 'number' | 'float' | 'text' | 'bytes', bytes: Uint8Array, part: Part): PartField['value'] {
  if (kind === 'number' && bytes.length <= 8) return String(unsigned(bytes))
  if (kind === 'float') return String(float(bytes))
  if (kind === 'text') return words(bytes)
  return `${part.size - part.head} bytes`
}
