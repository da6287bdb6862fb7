import { Reader } from '../../bytes'
import { makeRate, type Rate } from '../../time/rate'
import { hex, keys } from './labels'
import { isPartition, type KlvReader, type Partition } from './partitions'
import { byLabel, byTag, sets, type Property, type SetKind } from './tags'

const kindsByByte = new Map<string, SetKind>(Object.entries(sets).map(([kind, byte]) => [byte, kind as SetKind]))

/** A metadata set as it was read: its properties by what they are called here. */
export class ReadSet {
  constructor(
    readonly kind: SetKind,
    private readonly values: ReadonlyMap<Property, Uint8Array>,
  ) {}

  private reader(name: Property, least: number): Reader | null {
    const bytes = this.values.get(name)
    return bytes && bytes.length >= least ? new Reader(bytes) : null
  }

  get id(): string {
    return this.label('instance') ?? ''
  }

  u8(name: Property): number | null {
    return this.reader(name, 1)?.u8() ?? null
  }

  u16(name: Property): number | null {
    return this.reader(name, 2)?.u16() ?? null
  }

  u32(name: Property): number | null {
    return this.reader(name, 4)?.u32() ?? null
  }

  i64(name: Property): number | null {
    return this.reader(name, 8)?.i64() ?? null
  }

  rate(name: Property): Rate | null {
    const r = this.reader(name, 8)
    if (!r) return null
    const [num, den] = [r.i32(), r.i32()]
    return num > 0 && den > 0 ? makeRate(num, den) : null
  }

  /** A label, an identity or a reference as hexadecimal digits. */
  label(name: Property): string | null {
    const bytes = this.values.get(name)
    return bytes && bytes.length >= 16 ? hex(bytes) : null
  }

  text(name: Property): string | null {
    const bytes = this.values.get(name)
    if (!bytes) return null
    let out = ''
    for (let i = 0; i + 1 < bytes.length; i += 2) out += String.fromCharCode((bytes[i]! << 8) | bytes[i + 1]!)
    return out.replace(/\0[^]*$/, '')
  }

  /** References or labels of an array, or numbers of four bytes as digits. */
  list(name: Property): string[] {
    const r = this.reader(name, 8)
    if (!r) return []
    const [count, size] = [r.u32(), r.u32()]
    const out: string[] = []
    for (let i = 0; i < count && size > 0 && r.left >= size; i++) out.push(hex(r.part(size)))
    return out
  }

  bytes(name: Property): Uint8Array | null {
    return this.values.get(name) ?? null
  }
}

/** The sets of a header, by their identities. */
export type Metadata = ReadonlyMap<string, ReadSet>

/** Reads a set's properties; tags are those of the standard, or what the primer ties to a label. */
export function readSet(kind: SetKind, r: Reader, primer: ReadonlyMap<string, string>): ReadSet {
  const values = new Map<Property, Uint8Array>()
  while (r.left >= 4) {
    const tag = hex(r.part(2))
    const length = r.u16()
    if (length > r.left) break
    const bytes = r.part(length)
    const label = primer.get(tag)
    // versions of registers differ in the eighth byte
    const name = label ? (byLabel.get(label) ?? byLabelLoosely.get(loose(label))) : byTag.get(tag)
    if (name) values.set(name, bytes)
  }
  return new ReadSet(kind, values)
}

const loose = (label: string) => label.slice(0, 14) + label.slice(16)
const byLabelLoosely: ReadonlyMap<string, Property> = new Map([...byLabel].map(([label, name]) => [loose(label), name]))

/** Reads the header metadata that follows a partition's pack; none of a partition that has none. */
export async function readMetadata(reader: KlvReader, partition: Partition): Promise<Metadata> {
  const out = new Map<string, ReadSet>()
  const primer = new Map<string, string>()
  for (let at = partition.end, n = 0; at < reader.size && n < 100_000; n++) {
    const klv = await reader.klv(at)
    if (!klv || isPartition(klv.key) || keys.essence.test(klv.key)) break
    if (klv.value + klv.length > reader.size) break
    if (klv.key.startsWith(keys.primer)) {
      const r = await reader.value(klv)
      r.skip(8)
      while (r.left >= 18) primer.set(hex(r.part(2)), hex(r.part(16)))
    } else if (klv.key.startsWith(keys.set)) {
      const kind = kindsByByte.get(klv.key.slice(28, 30))
      if (kind) {
        const set = readSet(kind, await reader.value(klv), primer)
        if (set.id) out.set(set.id, set)
      }
    }
    at = klv.value + klv.length
  }
  return out
}
