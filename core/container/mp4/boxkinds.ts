import type { Reader } from '../../bytes'
import { placingText } from '../../media/presentation'
import { printable } from './boxes'
import { channelNames } from './channels'
import { objectType } from './esds'
import { readPlacing } from './trak'

/** Takes what a box says. */
export interface BoxTold {
  add(name: string, value: string | number): void
  /** A list of so many entries, of which the first are read. */
  list(name: string, count: number, read: () => string): void
}
export type BoxFields = (r: Reader, told: BoxTold) => void

/** What a kind of box is. */
interface BoxKind {
  readonly label: string
  /** Bytes behind the head before the boxes that it holds; absent where it holds none. */
  readonly parts?: number
  readonly fields?: BoxFields
}

const says = (label: string, fields?: BoxFields): BoxKind => ({ label, ...(fields ? { fields } : {}) })
const holds = (label: string, parts = 0, fields?: BoxFields): BoxKind => ({
  label,
  parts,
  ...(fields ? { fields } : {}),
})

const code = (r: Reader) => printable(r.tag())
const text = (r: Reader) => new TextDecoder().decode(r.part(r.left)).replace(/\0[^]*$/, '')
/** Seconds since 1904 as a date; nothing is said with nought. */
const date = (seconds: number) =>
  seconds === 0 ? 'not told' : new Date((seconds - 2_082_844_800) * 1000).toISOString().slice(0, 19).replace('T', ' ')
const fixed = (v: number, one: number) => String(Number((v / one).toFixed(4)))
/** Version and flags, which most boxes begin with; gives the version. */
function full(r: Reader): number {
  const version = r.u8()
  r.skip(3)
  return version
}
const wide = (r: Reader, version: number) => (version === 1 ? r.u64() : r.u32())

const mvhd: BoxFields = (r, { add }) => {
  const v = full(r)
  add('created', date(wide(r, v)))
  add('modified', date(wide(r, v)))
  add('timescale', r.u32())
  add('duration', wide(r, v))
  add('rate', fixed(r.i32(), 65536))
  add('volume', fixed(r.i16(), 256))
  r.skip(10)
  add('placed', placingText(readPlacing(r)))
  r.skip(24)
  add('next track', r.u32())
}

const tkhd: BoxFields = (r, { add }) => {
  const v = r.u8()
  const flags = r.u24()
  add('enabled', flags & 1 ? 'yes' : 'no')
  add('created', date(wide(r, v)))
  add('modified', date(wide(r, v)))
  add('track', r.u32())
  r.skip(4)
  add('duration', wide(r, v))
  r.skip(16)
  add('placed', placingText(readPlacing(r)))
  add('width', fixed(r.u32(), 65536))
  add('height', fixed(r.u32(), 65536))
}

const mdhd: BoxFields = (r, { add }) => {
  const v = full(r)
  add('created', date(wide(r, v)))
  add('modified', date(wide(r, v)))
  add('timescale', r.u32())
  add('duration', wide(r, v))
  const packed = r.u16()
  const letters = [10, 5, 0].map((by) => String.fromCharCode(((packed >> by) & 31) + 96)).join('')
  add('language', packed < 0x400 ? `number ${packed}` : letters)
}

const hdlr: BoxFields = (r, { add }) => {
  full(r)
  const component = code(r)
  if (/\w/.test(component)) add('component', component)
  add('handler', code(r))
  r.skip(12)
  // a counted string in QuickTime files, one that ends with nought in others
  const name = text(r)
  add('name', name.charCodeAt(0) === name.length - 1 ? name.slice(1) : name)
}

const elst: BoxFields = (r, { list }) => {
  const v = full(r)
  list('edits', r.u32(), () => {
    const duration = wide(r, v)
    const from = v === 1 ? r.i64() : r.i32()
    r.skip(4)
    return from < 0 ? `${duration} empty` : `${duration} from ${from}`
  })
}

/** A table of numbers, so many in each entry. */
const table =
  (name: string, read: (r: Reader) => string): BoxFields =>
  (r, { list }) => {
    full(r)
    list(name, r.u32(), () => read(r))
  }

const sizes: BoxFields = (r, { add, list }) => {
  full(r)
  const size = r.u32()
  const count = r.u32()
  if (size > 0) {
    add('bytes of each', size)
    add('samples', count)
  } else list('bytes', count, () => String(r.u32()))
}

const ftyp: BoxFields = (r, { add, list }) => {
  add('brand', code(r))
  add('version', r.u32())
  list('compatible', r.left >> 2, () => code(r))
}

const colr: BoxFields = (r, { add }) => {
  const kind = code(r)
  add('kind', kind)
  if (kind !== 'nclc' && kind !== 'nclx') return
  for (const name of ['primaries', 'transfer', 'matrix']) add(name, r.u16())
  if (kind === 'nclx') add('range', r.u8() & 0x80 ? 'full' : 'narrow')
}

const avcC: BoxFields = (r, { add }) => {
  r.skip(2)
  add('compatibility', `0x${r.u8().toString(16).padStart(2, '0')}`)
  r.skip(1)
  add('bytes of a length', (r.u8() & 3) + 1)
  const sets = r.u8() & 31
  add('sequence parameter sets', sets)
  for (let i = 0; i < sets; i++) r.skip(r.u16())
  add('picture parameter sets', r.u8())
}

const esds: BoxFields = (r, { add }) => {
  const object = objectType(r.bytes)
  if (object !== null) add('object type', `0x${object.toString(16)}`)
}

const trun: BoxFields = (r, { add }) => {
  r.skip(1)
  const flags = r.u24()
  add('samples', r.u32())
  if (flags & 1) add('data offset', r.i32())
}

/** Boxes by their names, some by what they stand in as well (ISO/IEC 14496-12, QuickTime File Format). */
export const boxKinds: Readonly<Partial<Record<string, BoxKind>>> = {
  '····': says('end of the list'),
  ftyp: says('kind of file', ftyp),
  styp: says('kind of segment', ftyp),
  moov: holds('movie'),
  mvhd: says('movie header', mvhd),
  trak: holds('track'),
  tkhd: says('track header', tkhd),
  tref: holds('references to tracks'),
  chap: says('track of chapters', (r, { list }) => list('tracks', r.left >> 2, () => String(r.u32()))),
  'tref/tmcd': says('track of timecode', (r, { list }) => list('tracks', r.left >> 2, () => String(r.u32()))),
  'gmhd/tmcd': holds('timecode'),
  tcmi: says('how timecode is shown'),
  edts: holds('edits'),
  elst: says('edit list', elst),
  mdia: holds('media'),
  mdhd: says('media header', mdhd),
  hdlr: says('handler', hdlr),
  minf: holds('media information'),
  vmhd: says('header of pictures'),
  smhd: says('header of sound'),
  gmhd: holds('header of other media'),
  gmin: says('general media'),
  nmhd: says('header of other media'),
  dinf: holds('where data is'),
  dref: holds('data references', 8, (r, { add }) => {
    full(r)
    add('references', r.u32())
  }),
  'url ': says('data reference', (r, { add }) => {
    r.skip(1)
    if (r.u24() & 1) add('data', 'in this file')
    else add('place', text(r))
  }),
  stbl: holds('sample table'),
  stsd: holds('sample descriptions', 8, (r, { add }) => {
    full(r)
    add('descriptions', r.u32())
  }),
  stts: says(
    'durations',
    table('runs', (r) => `${r.u32()} × ${r.u32()}`),
  ),
  ctts: says('composition offsets', (r, { list }) => {
    const v = full(r)
    list('runs', r.u32(), () => `${r.u32()} × ${v === 1 ? r.i32() : r.u32()}`)
  }),
  stss: says(
    'sync samples',
    table('samples', (r) => String(r.u32())),
  ),
  stsz: says('sample sizes', sizes),
  stsc: says(
    'samples in chunks',
    table('runs', (r) => `from ${r.u32()}: ${r.u32()} of description ${r.u32()}`),
  ),
  stco: says(
    'places of chunks',
    table('bytes', (r) => String(r.u32())),
  ),
  co64: says(
    'places of chunks',
    table('bytes', (r) => String(r.u64())),
  ),
  cslg: says('composition to decode'),
  sbgp: says('samples in groups'),
  sgpd: says('descriptions of groups'),
  udta: holds('user data'),
  meta: holds('metadata', 4),
  ilst: holds('list of metadata'),
  keys: says('keys of metadata'),
  data: says('value', (r, { add }) => {
    const kind = r.u32()
    r.skip(4)
    add('value', kind === 1 ? text(r) : `${r.left} bytes of kind ${kind}`)
  }),
  mdat: says('media data'),
  free: says('room'),
  skip: says('room'),
  wide: says('room'),
  uuid: says('extension', (r, { add }) =>
    add('identity', [...r.part(16)].map((b) => b.toString(16).padStart(2, '0')).join('')),
  ),
  moof: holds('fragment'),
  mfhd: says('fragment header', (r, { add }) => {
    full(r)
    add('number', r.u32())
  }),
  traf: holds('fragment of a track'),
  tfhd: says('header of a fragment of a track', (r, { add }) => {
    full(r)
    add('track', r.u32())
  }),
  tfdt: says('decode time', (r, { add }) => add('time', wide(r, full(r)))),
  trun: says('samples', trun),
  mvex: holds('fragments to come'),
  mehd: says('duration with fragments', (r, { add }) => add('duration', wide(r, full(r)))),
  trex: says('usual values of samples', (r, { add }) => {
    full(r)
    add('track', r.u32())
  }),
  mfra: holds('places of fragments'),
  tfra: says('places of fragments of a track'),
  mfro: says('size of the places'),
  sidx: says('index of segments'),
  avcC: says('H.264 configuration', avcC),
  hvcC: says('HEVC configuration'),
  av1C: says('AV1 configuration'),
  vpcC: says('VP9 configuration'),
  esds: says('elementary stream', esds),
  dOps: says('Opus configuration'),
  dfLa: says('FLAC configuration'),
  pcmC: says('PCM configuration', (r, { add }) => {
    full(r)
    add('order', r.u8() & 1 ? 'little-endian' : 'big-endian')
    add('bits', r.u8())
  }),
  wave: holds('sound extension'),
  frma: says('original format', (r, { add }) => add('format', code(r))),
  enda: says('order of bytes', (r, { add }) => add('order', r.u16() ? 'little-endian' : 'big-endian')),
  chan: says('channel layout', (r, { add }) => add('channels', channelNames(r).join(' ') || 'not named')),
  chnl: says('channel layout'),
  colr: says('colour', colr),
  pasp: says('pixel aspect', (r, { add }) => add('aspect', `${r.u32()}:${r.u32()}`)),
  clap: says('clean aperture', (r, { add }) => {
    add('width', fixed(r.u32(), r.u32()))
    add('lines', fixed(r.u32(), r.u32()))
  }),
  fiel: says('fields', (r, { add }) => {
    add('fields', r.u8())
    add('order', r.u8())
  }),
  btrt: says('bit rates', (r, { add }) => {
    add('buffer', r.u32())
    add('most', r.u32())
    add('mean', r.u32())
  }),
  mdcv: says('mastering display'),
  clli: says('light levels'),
  name: says('name', (r, { add }) => add('name', text(r))),
  chpl: says('chapters'),
}
