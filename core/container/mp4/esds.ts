import { Reader } from '../../bytes'

// What an `esds` box says of a stream (ISO/IEC 14496-1 7.2.6): descriptors within descriptors.

const tags = { stream: 3, decoder: 4, specific: 5 } as const

/** What stands in the first descriptor of a kind, and what follows; null where there is none. */
function within(esds: Uint8Array, wanted: number): { readonly r: Reader; readonly length: number } | null {
  const r = new Reader(esds, 'esds')
  r.skip(4)
  for (let depth = 0; depth < 8 && r.left > 2; depth++) {
    const tag = r.u8()
    let length = 0
    for (let i = 0; i < 4; i++) {
      const b = r.u8()
      length = (length << 7) | (b & 127)
      if (b < 128) break
    }
    if (tag === wanted) return { r, length: Math.min(length, r.left) }
    if (tag === tags.stream) {
      r.skip(2)
      const flags = r.u8()
      if (flags & 0x80) r.skip(2)
      if (flags & 0x40) r.skip(r.u8())
      if (flags & 0x20) r.skip(2)
    } else if (tag === tags.decoder) r.skip(13)
    else r.skip(Math.min(length, r.left))
  }
  return null
}

/** The DecoderSpecificInfo; null when there is none. */
export function decoderSpecificInfo(esds: Uint8Array): Uint8Array | null {
  const found = within(esds, tags.specific)
  return found && found.r.part(found.length)
}

/** The objectTypeIndication (table 5), `0x61` for MPEG-2 of main profile; null when there is none. */
export function objectType(esds: Uint8Array): number | null {
  const found = within(esds, tags.decoder)
  return found && found.length > 0 ? found.r.u8() : null
}
