import type { Reader, ByteSource } from '../../bytes'
import { pictureCodecs } from '../../codec/registry'
import type { Problem } from '../../problem'
import { faulty, fitted, listField, shownEntries, type Part, type PartField, type Structure } from '../structure'
import { lineTexts } from './ancillary'
import { definitions, hex, keys, op1a, wrappings } from './labels'
import {
  isFill,
  isPartition,
  KlvReader,
  partitionKinds,
  partitionsOf,
  readPartition,
  type Klv,
  type Partition,
} from './partitions'
import { byLabel, byTag, sets } from './tags'
import { valueText } from './valuetext'

/** What a kind of set is, in words. */
const setWords: Readonly<Record<string, string>> = {
  preface: 'preface',
  identification: 'identification: who wrote it',
  storage: 'content storage',
  essenceData: 'essence container data',
  material: 'material package',
  source: 'source package',
  track: 'track',
  eventTrack: 'event track',
  staticTrack: 'static track',
  marker: 'marker',
  sequence: 'sequence',
  clip: 'source clip',
  timecode: 'timecode',
  multiple: 'descriptor of several kinds',
  cdci: 'descriptor of pictures (CDCI)',
  mpeg: 'descriptor of MPEG pictures',
  wave: 'descriptor of wave sound',
  aes3: 'descriptor of AES3 sound',
  sound: 'descriptor of sound',
  picture: 'descriptor of pictures',
  avc: 'sub-descriptor of H.264',
  vbi: 'descriptor of VBI lines',
  ancillary: 'descriptor of ancillary data',
  data: 'descriptor of data',
}
const setOf = new Map<string, string>(Object.entries(sets).map(([name, byte]) => [byte, setWords[name] ?? name]))
/** Items of the generic container by their byte (ST 379-2 table 2). */
const items: Readonly<Record<string, string>> = {
  '04': 'system item',
  '14': 'system item',
  '05': 'pictures',
  '15': 'pictures',
  '06': 'sound',
  '16': 'sound',
  '07': 'data',
  '17': 'data',
  '18': 'compound',
}

/** Whether a key is of an element of VBI lines or ancillary data (ST 436-1 5.2). */
const isLines = (key: string) => keys.essence.test(key) && /^17..0[12]/.test(key.slice(24))

/** What a key stands for; empty where it is not known here. */
function labelOf(key: string): string {
  if (isFill(key)) return 'fill'
  if (key === keys.randomIndex) return 'random index'
  if (isPartition(key)) return `pack of the ${partitionKinds[key.slice(26, 28)]} partition`
  if (key.startsWith(keys.primer)) return 'primer: tags and their labels'
  if (key.startsWith(keys.set)) return setOf.get(key.slice(28, 30)) ?? 'set of metadata'
  if (key === keys.index) return 'segment of the index'
  if (isLines(key)) return `${key.slice(28, 30) === '01' ? 'VBI lines' : 'ancillary data'}, element ${key.slice(24)}`
  if (keys.essence.test(key)) return `${items[key.slice(24, 26)] ?? 'essence'}, element ${key.slice(24)}`
  return /^060e2b3402(05|43|63)01010d0103010[14]/.test(key) ? 'system item' : ''
}

/** Labels that stand as values, by what they are called. */
const known = new Map<string, string>([
  ...Object.entries(definitions).map(([name, l]): [string, string] => [l, name]),
  [op1a, 'OP1a'],
  [wrappings.avc, 'H.264, frame by frame'],
  [wrappings.wave, 'broadcast wave, frame by frame'],
  [wrappings.vbi, 'VBI lines, frame by frame'],
  [wrappings.ancillary, 'ancillary data, frame by frame'],
  [wrappings.multiple, 'several kinds of essence'],
  ...pictureCodecs.flatMap((c) => (c.calls.mxf?.entries ?? []).map((l): [string, string] => [l, c.label])),
])

const partOf = ({ key, at, value, length }: Klv, end: number, of: Part | null): Part =>
  fitted(
    {
      ...{ name: key, label: labelOf(key), offset: at, size: value - at + length, head: value - at, within: null },
      of: of && { name: of.name, offset: of.offset },
    },
    end,
  )

/** Partitions of a file, and in each the keys with their values, its own pack first (SMPTE ST 377-1, ST 336). */
export const mxfStructure: Structure = {
  async top(source) {
    const list = await partitionsOf(source, [] as Problem[])
    return list.map((p, i) => {
      const size = (list[i + 1]?.at ?? source.size) - p.at
      const state = `${p.closed ? 'closed' : 'open'}, ${p.complete ? 'complete' : 'incomplete'}`
      const part: Part = {
        ...{ name: p.kind, label: `${p.kind} partition, ${state}`, offset: p.at, size, head: 0, within: p.at },
        ...{ of: null, fault: null },
      }
      return p.closed ? part : faulty(part, 'This partition was not closed: what it says may change, or be wrong.')
    })
  },
  async part(source, at, end, of) {
    const klv = await new KlvReader(direct(source)).klv(at)
    return klv && partOf(klv, end, of)
  },
  async fields(part, r, source) {
    if (part.head === 0 || isPartition(part.name))
      return packFields(await readPartition(new KlvReader(source), part.offset))
    if (part.name.startsWith(keys.primer)) return primerFields(r)
    if (part.name === keys.randomIndex) return randomFields(r)
    if (part.name.startsWith(keys.set) || part.name === keys.index)
      return propertyFields(r, await primerOf(source, part.of?.offset ?? 0))
    if (isLines(part.name)) return lineFields(r)
    return []
  },
}

/** A source of which no more is read than is asked for: keys may stand far from each other. */
const direct = (source: ByteSource): ByteSource => ({
  ...{ name: source.name, size: source.size },
  read: (at, n) => source.read(at, Math.min(n, 32)),
})

const field = (name: string, value: string | number): PartField => ({ name, value: String(value) })

function packFields(p: Partition | null): PartField[] {
  if (!p) return [field('contents', 'they end before what they should hold')]
  return [
    field('previous partition', `byte ${p.previous}`),
    field('footer', p.footer ? `byte ${p.footer}` : 'not told'),
    field('bytes of metadata', p.headerBytes),
    field('bytes of index', p.indexBytes),
    field('index', p.indexSid || 'none'),
    field('essence', p.bodySid ? `${p.bodySid}, from its byte ${p.bodyOffset}` : 'none'),
    field('operational pattern', known.get(p.pattern) ?? p.pattern),
  ]
}

function primerFields(r: Reader): PartField[] {
  const count = r.u32()
  r.skip(4)
  const out = [field('tags', count)]
  for (let i = 0; i < count && r.left >= 18; i++) {
    const [tag, label] = [hex(r.part(2)), hex(r.part(16))]
    out.push(field(tag, byLabel.get(label) ?? label))
  }
  return out
}

function randomFields(r: Reader): PartField[] {
  const count = (r.left - 4) / 12
  const entries: string[] = []
  while (r.left >= 16 && entries.length < shownEntries) entries.push(`body ${r.u32()} at byte ${r.u64()}`)
  return [listField('partitions', Math.floor(count), entries)]
}

function propertyFields(r: Reader, primer: ReadonlyMap<string, string>): PartField[] {
  const out: PartField[] = []
  while (r.left >= 4) {
    const tag = hex(r.part(2))
    const length = r.u16()
    const bytes = r.part(length)
    const name = byTag.get(tag) ?? byLabel.get(primer.get(tag) ?? '')
    const value = valueText(name ?? null, bytes)
    out.push(field(name ? words(name) : tag, known.get(value) ?? value))
  }
  return out
}

function lineFields(r: Reader): PartField[] {
  const lines = lineTexts(r.part(r.left))
  if (!lines) return [field('lines', 'not laid out as such')]
  const shown = lines.slice(0, shownEntries).map(({ number, text }) => field(`line ${number}`, text))
  return [...shown, ...(lines.length > shown.length ? [field('more', `${lines.length - shown.length} lines`)] : [])]
}

/** `packageName` as `package name`. */
const words = (name: string) => name.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)

/** Tags and their labels of the partition at a place. */
async function primerOf(source: ByteSource, at: number): Promise<ReadonlyMap<string, string>> {
  const reader = new KlvReader(source)
  const out = new Map<string, string>()
  let klv = await reader.klv(at)
  for (let n = 0; klv && n < 4 && !klv.key.startsWith(keys.primer); n++) klv = await reader.klv(klv.value + klv.length)
  if (!klv?.key.startsWith(keys.primer)) return out
  const r = await reader.value(klv)
  r.skip(8)
  while (r.left >= 18) out.set(hex(r.part(2)), hex(r.part(16)))
  return out
}
