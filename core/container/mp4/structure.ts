import { Reader, type ByteSource } from '../../bytes'
import { pictureCodecCalled, pictureCodecs, soundCodecCalled, soundCodecs } from '../../codec/registry'
import { pictureFields, soundFields } from '../../codec/saidfields'
import { fitted, listField, shownEntries, type PartField, type Structure } from '../structure'
import { printable } from './boxes'
import { boxKinds, type BoxFields } from './boxkinds'
import { soundConfiguration } from './soundconfiguration'

/** What a box is; entries of a sample description go by their codec, and have no kind of their own. */
const kindOf = (name: string, of: string | undefined) =>
  (of === 'stsd' ? null : (boxKinds[`${of}/${name}`] ?? boxKinds[name])) ?? null

/** What ends a list of boxes. */
const ending = { name: '····', label: 'end of the list', head: 0, within: null, fault: null }

/** Boxes of a file (ISO/IEC 14496-12 4.2; QuickTime File Format, atoms). */
export const mp4Structure: Structure = {
  async part(source, at, end, of) {
    const bytes = await source.read(at, Math.min(16, end - at))
    const nothing = bytes.every((b) => b === 0)
    // lists of QuickTime files may end with four noughts
    if (bytes.length < 8 && nothing && of)
      return { ...ending, offset: at, size: bytes.length, of: { name: of.name, offset: of.offset } }
    if (bytes.length < 8 || nothing) return null
    const r = new Reader(bytes, source.name, at)
    const [short, type] = [r.u32(), r.tag()]
    if (short === 1 && bytes.length < 16) return null
    const size = short === 1 ? r.u64() : short === 0 ? end - at : short
    const head = short === 1 ? 16 : 8
    if (size < head) return null
    const name = printable(type)
    const kind = kindOf(name, of?.name)
    const entry = of?.name === 'stsd'
    return fitted(
      {
        ...{ name, offset: at, size, head },
        label: kind?.label ?? (entry ? 'sample description' : ''),
        within: await within(source, at + head, at + Math.min(size, end - at), name, entry, kind?.parts),
        of: of && { name: of.name, offset: of.offset },
      },
      end,
    )
  },
  fields(part, r) {
    const kind = kindOf(part.name, part.of?.name)
    if (part.of?.name === 'stsd') return entryFields(part.name, r)
    const { bytes } = r
    return [...(kind?.fields ? say(kind.fields, r) : []), ...configured(part.name, part.of?.name, bytes)]
  },
}

/** What a box says that is a codec's configuration, as its codec reads it; `of`: the entry that it stands in. */
function configured(name: string, of: string | undefined, bytes: Uint8Array): PartField[] {
  const pictures = pictureCodecs.find(({ calls: { mp4 } }) => mp4?.box === name || mp4?.tells === name)
  if (pictures) return pictureFields(pictures.describe(bytes, null))
  // one box serves pictures and sound of many kinds; in QuickTime files it stands deeper
  const sound = soundCodecs.find(({ calls: { mp4 } }) => mp4?.box === name && [...mp4.entries, 'wave'].includes(of!))
  const box = { type: name, data: new Reader(bytes), whole: bytes }
  const configuration = sound && soundConfiguration(sound.calls.mp4!.entries[0]!, [box])
  return configuration ? soundFields(sound.describe(configuration)) : []
}

/** Where the boxes within a box begin. */
async function within(source: ByteSource, body: number, end: number, name: string, entry: boolean, parts?: number) {
  if (entry) {
    const head = new Reader(await source.read(body, 32))
    const kind = entryKind(name, head)
    const from = kind && body + entryHead(kind, head)
    return from !== null && from + 8 <= end ? from : null
  }
  if (parts === undefined) return null
  // a `meta` of QuickTime files has no version before its boxes
  if (name !== 'meta') return body + parts
  const second = new Reader(await source.read(body + 4, 4))
  return second.left === 4 && second.tag() === 'hdlr' ? body : body + parts
}

function say(fields: BoxFields, r: Reader): PartField[] {
  const out: PartField[] = []
  const add = (name: string, value: string | number) => void out.push({ name, value: String(value) })
  fields(r, {
    add,
    list(name, count, read) {
      const entries: string[] = []
      while (entries.length < Math.min(count, shownEntries)) entries.push(read())
      out.push(listField(name, count, entries))
    },
  })
  return out
}

/** What an entry of a sample description holds, by its codec, else by how its head looks. */
function entryKind(name: string, body: Reader): 'pictures' | 'sound' | null {
  if (pictureCodecCalled('mp4', name)) return 'pictures'
  if (soundCodecCalled('mp4', name)) return 'sound'
  // 72 dots an inch is what all writers say of pictures (ISO/IEC 14496-12 12.1.3)
  const looks = body.left >= 32 && new Reader(body.bytes.subarray(28)).u32() === 0x480000
  return looks ? 'pictures' : null
}

/** Bytes of an entry before its boxes: those of sound grew with two versions of QuickTime. */
function entryHead(kind: 'pictures' | 'sound', body: Reader): number {
  if (kind === 'pictures') return 78
  body.skip(8)
  return [28, 44, 64][body.u16()] ?? 28
}

/** What the head of an entry says. */
function entryFields(name: string, r: Reader): PartField[] {
  const kind = entryKind(name, r)
  if (!kind) return []
  const field = (label: string, value: string | number) => ({ name: label, value: String(value) })
  if (kind === 'pictures') {
    r.skip(24)
    const raster = `${r.u16()}×${r.u16()}`
    r.skip(46)
    return [field('raster', raster), field('depth', r.u16())]
  }
  r.skip(8)
  const version = r.u16()
  r.skip(6)
  const fields = (channels: number, bits: number, rate: number) => [
    ...[field('version', version), field('channels', channels), field('bits', bits)],
    ...(rate ? [field('sample rate', `${rate} Hz`)] : []),
  ]
  if (version < 2) {
    const [channels, bits] = [r.u16(), r.u16()]
    r.skip(4)
    return fields(channels, bits, r.u16())
  }
  r.skip(16)
  const [rate, channels] = [r.f64(), r.u32()]
  r.skip(4)
  return fields(channels, r.u32(), rate)
}
