import { concatBytes, Writer } from '../../bytes'
import type { Rate } from '../../time/rate'
import { fail } from '../../problem'
import { klv } from './klv'
import { bytesOf, keys } from './labels'
import { sets, tags, type Property, type SetKind } from './tags'

/** Values of properties as they stand in sets (SMPTE ST 377-1 4.2, 4.3). */
export const value = {
  u8: (v: number) => Uint8Array.of(v),
  u16: (v: number) => new Writer().u16(v).bytes(),
  u32: (v: number) => new Writer().u32(v).bytes(),
  i64: (v: number) => new Writer().i64(v).bytes(),
  rational: ({ num, den }: Rate) => new Writer().u32(num).u32(den).bytes(),
  flag: (v: boolean) => Uint8Array.of(v ? 1 : 0),
  label: bytesOf,
  text(s: string) {
    const w = new Writer()
    for (let i = 0; i < s.length; i++) w.u16(s.charCodeAt(i))
    return w.bytes()
  },
  /** An array, or a batch: how many, how long each is, and each. */
  list(items: readonly Uint8Array[], size = 16) {
    return concatBytes([new Writer().u32(items.length).u32(size).bytes(), ...items])
  },
  /** A date that is not told (4.3: all noughts). */
  noDate: new Uint8Array(8),
}

/** A metadata set: its kind, its own identity, and its properties. */
export interface MetadataSet {
  readonly kind: SetKind
  readonly id: Uint8Array
  readonly values: Partial<Record<Property, Uint8Array>>
}

/** Sets as they stand in a header, behind the primer that ties their tags to labels. */
export function writeSets(list: readonly MetadataSet[]): Uint8Array {
  const used = new Set<Property>(['instance'])
  const parts = list.map(({ kind, id, values }) => {
    const w = new Writer()
    const all = { instance: id, ...values }
    for (const [name, bytes] of Object.entries(all) as [Property, Uint8Array][]) {
      used.add(name)
      if (bytes.length > 0xffff)
        fail(
          'mxf.too-much',
          `An MXF file holds at most 65 535 bytes of a property; ${name} has ${bytes.length}.`,
          undefined,
          'Use fewer chapters, or shorter papers.',
        )
      w.raw(bytesOf(tags[name][0])).u16(bytes.length).raw(bytes)
    }
    return klv(`${keys.set}${sets[kind]}00`, w.bytes())
  })
  const primer = new Writer().u32(used.size).u32(18)
  for (const name of used) primer.raw(bytesOf(tags[name][0])).raw(bytesOf(tags[name][1]))
  return concatBytes([klv(`${keys.primer}0100`, primer.bytes()), ...parts])
}
