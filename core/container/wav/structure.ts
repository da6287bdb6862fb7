import { Reader } from '../../bytes'
import { fitted, listField, shownEntries, type PartField, type Structure } from '../structure'

/** Chunks by their names (EBU Tech 3285 and its supplements, EBU Tech 3306, ITU-R BS.2088). */
const labels: Readonly<Partial<Record<string, string>>> = {
  RIFF: 'the file',
  RF64: 'the file, more than 4 GB',
  BW64: 'the file, more than 4 GB',
  ds64: 'sizes in 64 bits',
  'fmt ': 'format',
  fact: 'samples of coded sound',
  bext: 'broadcast extension',
  iXML: 'production metadata',
  axml: 'XML',
  chna: 'tracks of audio definition',
  'cue ': 'cue points',
  LIST: 'list',
  INFO: 'information',
  labl: 'name of a cue point',
  note: 'note to a cue point',
  ltxt: 'length of a cue point',
  data: 'sound',
  JUNK: 'room',
  FLLR: 'room',
  'PAD ': 'room',
  smpl: 'loops',
  peak: 'peaks',
  levl: 'peak envelope',
}
const outer = new Set(['RIFF', 'RF64', 'BW64'])

const text = (r: Reader, n = r.left) =>
  new TextDecoder('latin1')
    .decode(r.part(Math.min(n, r.left)))
    .replace(/\0[^]*$/, '')
    .trim()

type Fields = (r: Reader, add: (name: string, value: string | number) => void, list: (f: PartField) => void) => void

const fields: Readonly<Partial<Record<string, Fields>>> = {
  ds64(r, add) {
    for (const name of ['bytes of the file', 'bytes of sound', 'samples']) add(name, r.u64le())
  },
  'fmt '(r, add) {
    add('format', `0x${r.u16le().toString(16).padStart(4, '0')}`)
    add('channels', r.u16le())
    add('sample rate', `${r.u32le()} Hz`)
    add('bytes a second', r.u32le())
    add('bytes of a frame', r.u16le())
    add('bits', r.u16le())
    if (r.left < 24) return
    r.skip(2)
    add('valid bits', r.u16le())
    add('channel mask', `0x${r.u32le().toString(16)}`)
  },
  fact: (r, add) => add('samples', r.u32le()),
  bext(r, add) {
    add('description', text(r, 256))
    add('originator', text(r, 32))
    add('originator reference', text(r, 32))
    add('date', text(r, 10))
    add('time', text(r, 8))
    add('time reference', r.u64le())
    const version = r.u16le()
    add('version', version)
    r.skip(64)
    const said = ['loudness', 'loudness range', 'true peak', 'momentary', 'short-term']
    if (version >= 2)
      for (const name of said) {
        const v = (r.u16le() << 16) >> 16
        add(name, v === 0x7fff ? 'not told' : (v / 100).toFixed(2))
      }
    else r.skip(10)
    r.skip(180)
    add('coding history', text(r))
  },
  'cue '(r, _add, list) {
    const count = r.u32le()
    const entries: string[] = []
    while (entries.length < Math.min(count, shownEntries)) {
      const id = r.u32le()
      r.skip(16)
      entries.push(`${id} at ${r.u32le()}`)
    }
    list(listField('cue points', count, entries))
  },
  labl(r, add) {
    add('cue point', r.u32le())
    add('name', text(r))
  },
  iXML: (r, add) => add('text', text(r)),
  axml: (r, add) => add('text', text(r)),
}

/** Chunks of a WAV file. */
export const wavStructure: Structure = {
  async part(source, at, end, of) {
    const bytes = await source.read(at, 12)
    if (bytes.length < 8) return null
    const r = new Reader(bytes, source.name, at)
    const [name, said] = [r.tag(), r.u32le()]
    if (!/^[\x20-\x7e]{4}$/.test(name)) return null
    // sizes that 32 bits do not hold stand in `ds64`
    const big = said === 0xffffffff && (outer.has(name) || name === 'data')
    const size = big ? await bigSize(source, name, end - at) : 8 + said + (said & 1)
    const list = name === 'LIST' || outer.has(name)
    // the last byte of an odd chunk may be missing
    const padded = !big && size === end - at + 1 && (said & 1) === 1 ? size - 1 : size
    return fitted(
      {
        ...{ name, label: labels[name] ?? '', offset: at, size: padded, head: 8, within: list ? at + 12 : null },
        of: of && { name: of.name, offset: of.offset },
      },
      end,
    )
  },
  fields(part, r) {
    const out: PartField[] = []
    if (part.within !== null) return [{ name: 'kind', value: r.tag() }]
    const add = (name: string, value: string | number) => void out.push({ name, value: String(value) })
    fields[part.name]?.(r, add, (f) => void out.push(f))
    return out
  },
}

async function bigSize(source: { read(at: number, n: number): Promise<Uint8Array> }, name: string, left: number) {
  const r = new Reader(await source.read(12, 28))
  if (r.left < 28 || r.tag() !== 'ds64') return left
  r.skip(4)
  const [file, sound] = [r.u64le(), r.u64le()]
  const size = 8 + (name === 'data' ? sound : file)
  return size + (size & 1)
}
