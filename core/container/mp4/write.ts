import { concatBytes, Writer } from '../../bytes'
import { mulDivRound } from '../../time/samples'
import { box, fullBox } from './boxwriter'
import { identity, type Movie, type WrapTrack } from './movie'
import { sampleTable, trackDuration } from './sampletablewriter'

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b)
}

function handler(kind: string, name: string, brand: Movie['brand']): Uint8Array {
  const text = new TextEncoder().encode(name)
  const label = brand === 'mov' ? new Writer().u8(text.length).raw(text).bytes() : new Writer().raw(text).u8(0).bytes()
  return fullBox(
    'hdlr',
    0,
    0,
    new Writer()
      .tag(brand === 'mov' ? 'mhlr' : '\0\0\0\0')
      .tag(kind)
      .zero(12)
      .raw(label)
      .bytes(),
  )
}

/** What all tracks of a movie share as it is written. */
interface Setting {
  readonly movie: Movie
  readonly movieScale: number
  readonly dataStart: number
  readonly wide: boolean
  /** Seconds since 1904. */
  /** Numbers of the tracks that others lean on; 0 for none. */
  readonly refs: { readonly timecode: number; readonly chapters: number }
}

function trak(t: WrapTrack, id: number, s: Setting): Uint8Array {
  const { brand } = s.movie
  const media = trackDuration(t)
  const shown = mulDivRound(t.edit?.duration ?? media, s.movieScale, t.timescale)
  const edit = new Writer()
    .u32(1)
    .u64(shown)
    .i64(t.edit?.mediaTime ?? 0)
    .u32(0x10000)
  const mdhd = new Writer().zero(16).u32(t.timescale).u64(media).u16(0x55c4).u16(0)
  const dref = box('dinf', fullBox('dref', 0, 0, new Writer().u32(1).bytes(), fullBox('url ', 0, 1)))
  const dataHandler =
    brand === 'mov' ? [fullBox('hdlr', 0, 0, new Writer().tag('dhlr').tag('url ').zero(12).u8(0).bytes())] : []
  return box(
    'trak',
    trackHeader(t, id, shown),
    box('edts', fullBox('elst', 1, 0, edit.bytes())),
    ...references(t, s),
    box(
      'mdia',
      fullBox('mdhd', 1, 0, mdhd.bytes()),
      handler(kinds[t.kind][0], kinds[t.kind][1], brand),
      box('minf', mediaHeader(t.kind, brand), ...dataHandler, dref, sampleTable(t, s.dataStart, s.wide)),
    ),
  )
}

const kinds = {
  video: ['vide', 'Pictures'],
  audio: ['soun', 'Sound'],
  timecode: ['tmcd', 'Timecode'],
  chapters: ['text', 'Chapters'],
} as const

function trackHeader(t: WrapTrack, id: number, shown: number): Uint8Array {
  return fullBox(
    'tkhd',
    1,
    t.kind === 'timecode' || t.kind === 'chapters' ? 2 : 3,
    new Writer()
      // when it was made is not told (ISO/IEC 14496-12 8.2.2): the same file is the same bytes
      .zero(16)
      .u32(id)
      .u32(0)
      .u64(shown)
      .zero(8)
      .u16(0)
      .u16(0)
      .u16(t.kind === 'audio' ? 0x100 : 0)
      .u16(0)
      .raw(identity)
      .u32(Math.round((t.displayWidth ?? t.width ?? 0) * 65536))
      .u32((t.height ?? 0) * 65536)
      .bytes(),
  )
}

/** The first picture track, else the first sound track, names the timecode and chapters that belong to it. */
function references(t: WrapTrack, { movie, refs }: Setting): Uint8Array[] {
  const lead = movie.tracks.find((x) => x.kind === 'video') ?? movie.tracks.find((x) => x.kind === 'audio')
  if (t !== lead) return []
  const to = [
    ...(t.kind === 'video' && refs.timecode ? [box('tmcd', new Writer().u32(refs.timecode).bytes())] : []),
    ...(refs.chapters ? [box('chap', new Writer().u32(refs.chapters).bytes())] : []),
  ]
  return to.length ? [box('tref', ...to)] : []
}

function mediaHeader(kind: WrapTrack['kind'], brand: Movie['brand']): Uint8Array {
  if (kind === 'video') return fullBox('vmhd', 0, 1, new Uint8Array(8))
  if (kind === 'audio') return fullBox('smhd', 0, 0, new Uint8Array(4))
  if (kind === 'chapters' && brand === 'mp4') return fullBox('nmhd', 0, 0)
  const gmin = new Writer().u16(0x40).u16(0x8000).u16(0x8000).u16(0x8000).u16(0).u16(0)
  const tcmi = new Writer().u16(0).u16(0).u16(12).u16(0).zero(12).u8(0)
  return box(
    'gmhd',
    fullBox('gmin', 0, 0, gmin.bytes()),
    kind === 'chapters' ? box('text', identity) : box('tmcd', fullBox('tcmi', 0, 0, tcmi.bytes())),
  )
}

/**
 * The head of an MP4 or MOV file with its index in front: `ftyp`, `moov`, and the header of a `mdat` of `dataSize`
 * bytes. Media data follows directly: a chunk's offset counts from the end of these bytes. The movie timescale is the
 * least common multiple of the tracks' timescales, so that every edit is exact.
 */
export function movieHead(movie: Movie): Uint8Array {
  const real = movie.tracks.filter((t) => t.kind !== 'timecode' && t.kind !== 'chapters')
  let movieScale = real.reduce((a, t) => (a / gcd(a, t.timescale)) * t.timescale, 1)
  if (movieScale > 0x7fffffff) movieScale = real[0]!.timescale
  const duration = Math.max(
    ...real.map((t) => mulDivRound(t.edit?.duration ?? trackDuration(t), movieScale, t.timescale)),
  )
  const refs = {
    timecode: movie.tracks.findIndex((t) => t.kind === 'timecode') + 1,
    chapters: movie.tracks.findIndex((t) => t.kind === 'chapters') + 1,
  }
  const ftyp =
    movie.brand === 'mov'
      ? box('ftyp', new Writer().tag('qt  ').u32(0x200).tag('qt  ').bytes())
      : box('ftyp', new Writer().tag('isom').u32(0x200).tag('isomiso2avc1mp41').bytes())
  const wide = movie.dataSize > 0xf0000000
  const build = (dataStart: number) => {
    const mvhd = fullBox(
      'mvhd',
      1,
      0,
      new Writer()
        .zero(16)
        .u32(movieScale)
        .u64(duration)
        .u32(0x10000)
        .u16(0x100)
        .zero(10)
        .raw(identity)
        .zero(24)
        .u32(movie.tracks.length + 1)
        .bytes(),
    )
    const traks = movie.tracks.map((t, i) => trak(t, i + 1, { movie, movieScale, dataStart, wide, refs }))
    return concatBytes([
      ftyp,
      box('moov', mvhd, ...traks),
      new Writer()
        .u32(1)
        .tag('mdat')
        .u64(movie.dataSize + 16)
        .bytes(),
    ])
  }
  return build(build(0).length)
}
