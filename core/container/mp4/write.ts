import { concatBytes, Writer } from '../../bytes'
import { mulDivRound } from '../../time/samples'
import type { TrackPlan } from '../container'
import { box, fullBox } from './boxwriter'

/** One track as it will stand in the file; its chunks count from the media data payload. */
export interface WrapTrack extends Omit<TrackPlan, 'essence'> {
  readonly kind: 'video' | 'audio' | 'timecode' | 'chapters'
  readonly sampleEntry: Uint8Array
  readonly width?: number
  readonly height?: number
  /** Display width after pixel aspect. */
  readonly displayWidth?: number
}

export interface Movie {
  readonly brand: 'mov' | 'mp4'
  readonly tracks: readonly WrapTrack[]
  /** Bytes of media data. */
  readonly dataSize: number
  /** Seconds since 1970; kept in the file as its creation time. */
  readonly created: number
}

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b)
}

function countOf(t: WrapTrack): number {
  return t.sizes instanceof Uint32Array ? t.sizes.length : t.sizes.count
}

function trackDuration(t: WrapTrack): number {
  if (!(t.durations instanceof Uint32Array)) return t.durations.constant * countOf(t)
  let sum = 0
  for (const d of t.durations) sum += d
  return sum
}

/** Run-length pairs (count, value) of a table. */
function runs(n: number, value: (i: number) => number, write: (w: Writer, v: number) => void): Uint8Array {
  const w = new Writer()
  let entries = 0
  for (let i = 0; i < n;) {
    const v = value(i)
    let k = i + 1
    while (k < n && value(k) === v) k++
    w.u32(k - i)
    write(w, v)
    entries++
    i = k
  }
  return new Writer().u32(entries).raw(w.bytes()).bytes()
}

function sampleTable(t: WrapTrack, dataStart: number, wide: boolean): Uint8Array {
  const n = countOf(t)
  const boxes: Uint8Array[] = [fullBox('stsd', 0, 0, new Writer().u32(1).bytes(), t.sampleEntry)]
  const d = t.durations
  boxes.push(
    fullBox(
      'stts',
      0,
      0,
      d instanceof Uint32Array
        ? runs(
            n,
            (i) => d[i]!,
            (w, v) => w.u32(v),
          )
        : new Writer().u32(1).u32(n).u32(d.constant).bytes(),
    ),
  )
  const cts = t.cts
  if (cts)
    boxes.push(
      fullBox(
        'ctts',
        cts.some((v) => v < 0) ? 1 : 0,
        0,
        runs(
          n,
          (i) => cts[i]!,
          (w, v) => w.i32(v),
        ),
      ),
    )
  if (t.sync) {
    const w = new Writer()
    let count = 0
    t.sync.forEach((s, i) => {
      if (s) {
        w.u32(i + 1)
        count++
      }
    })
    boxes.push(fullBox('stss', 0, 0, new Writer().u32(count).raw(w.bytes()).bytes()))
  }
  const stsc = new Writer()
  let entries = 0
  t.chunks.forEach((c, i) => {
    if (i > 0 && t.chunks[i - 1]!.samples === c.samples) return
    stsc
      .u32(i + 1)
      .u32(c.samples)
      .u32(1)
    entries++
  })
  boxes.push(fullBox('stsc', 0, 0, new Writer().u32(entries).raw(stsc.bytes()).bytes()))
  if (t.sizes instanceof Uint32Array) {
    const w = new Writer().u32(0).u32(n)
    for (const s of t.sizes) w.u32(s)
    boxes.push(fullBox('stsz', 0, 0, w.bytes()))
  } else boxes.push(fullBox('stsz', 0, 0, new Writer().u32(t.sizes.constant).u32(n).bytes()))
  const offsets = new Writer().u32(t.chunks.length)
  for (const c of t.chunks) {
    if (wide) offsets.u64(dataStart + c.offset)
    else offsets.u32(dataStart + c.offset)
  }
  boxes.push(fullBox(wide ? 'co64' : 'stco', 0, 0, offsets.bytes()))
  return box('stbl', ...boxes)
}

const identity = new Writer()
  .u32(0x10000)
  .u32(0)
  .u32(0)
  .u32(0)
  .u32(0x10000)
  .u32(0)
  .u32(0)
  .u32(0)
  .u32(0x40000000)
  .bytes()

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

function trak(
  t: WrapTrack,
  id: number,
  refs: { readonly timecode: number; readonly chapters: number },
  movie: Movie,
  movieScale: number,
  dataStart: number,
  wide: boolean,
  created: number,
): Uint8Array {
  const media = trackDuration(t)
  const shown = mulDivRound(t.edit?.duration ?? media, movieScale, t.timescale)
  const tkhd = fullBox(
    'tkhd',
    1,
    t.kind === 'timecode' || t.kind === 'chapters' ? 2 : 3,
    new Writer()
      .u64(created)
      .u64(created)
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
  const edts = box(
    'edts',
    fullBox(
      'elst',
      1,
      0,
      new Writer()
        .u32(1)
        .u64(shown)
        .i64(t.edit?.mediaTime ?? 0)
        .u32(0x10000)
        .bytes(),
    ),
  )
  const lead = movie.tracks.find((x) => x.kind === 'video') ?? movie.tracks.find((x) => x.kind === 'audio')
  const kindsOfRef =
    t === lead
      ? [
          ...(t.kind === 'video' && refs.timecode ? [box('tmcd', new Writer().u32(refs.timecode).bytes())] : []),
          ...(refs.chapters ? [box('chap', new Writer().u32(refs.chapters).bytes())] : []),
        ]
      : []
  const tref = kindsOfRef.length ? [box('tref', ...kindsOfRef)] : []
  const mdhd = fullBox(
    'mdhd',
    1,
    0,
    new Writer().u64(created).u64(created).u32(t.timescale).u64(media).u16(0x55c4).u16(0).bytes(),
  )
  const kinds = {
    video: ['vide', 'Pictures'],
    audio: ['soun', 'Sound'],
    timecode: ['tmcd', 'Timecode'],
    chapters: ['text', 'Chapters'],
  } as const
  const head =
    t.kind === 'video'
      ? fullBox('vmhd', 0, 1, new Uint8Array(8))
      : t.kind === 'audio'
        ? fullBox('smhd', 0, 0, new Uint8Array(4))
        : t.kind === 'chapters' && movie.brand === 'mp4'
          ? fullBox('nmhd', 0, 0)
          : box(
              'gmhd',
              fullBox('gmin', 0, 0, new Writer().u16(0x40).u16(0x8000).u16(0x8000).u16(0x8000).u16(0).u16(0).bytes()),
              t.kind === 'chapters'
                ? box('text', identity)
                : box('tmcd', fullBox('tcmi', 0, 0, new Writer().u16(0).u16(0).u16(12).u16(0).zero(12).u8(0).bytes())),
            )
  const dref = box('dinf', fullBox('dref', 0, 0, new Writer().u32(1).bytes(), fullBox('url ', 0, 1)))
  const dataHandler =
    movie.brand === 'mov' ? [fullBox('hdlr', 0, 0, new Writer().tag('dhlr').tag('url ').zero(12).u8(0).bytes())] : []
  return box(
    'trak',
    tkhd,
    edts,
    ...tref,
    box(
      'mdia',
      mdhd,
      handler(kinds[t.kind][0], kinds[t.kind][1], movie.brand),
      box('minf', head, ...dataHandler, dref, sampleTable(t, dataStart, wide)),
    ),
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
  const created = movie.created + 2082844800
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
        .u64(created)
        .u64(created)
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
    const traks = movie.tracks.map((t, i) => trak(t, i + 1, refs, movie, movieScale, dataStart, wide, created))
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

/**
 * A track of chapter names and the bytes of its samples, which stand at `offset` of the media data (QuickTime File
 * Format, chapter lists; in MP4 as 3GPP timed text, TS 26.245). Time before the first chapter is a name of nothing.
 * Null without chapters.
 */
export function chapterTrack(
  chapters: readonly { readonly at: number; readonly name: string }[],
  frames: number,
  rate: { readonly num: number; readonly den: number },
  brand: Movie['brand'],
  offset: number,
): { readonly track: WrapTrack; readonly bytes: Uint8Array } | null {
  const inside = chapters
    .filter((c) => c.at >= 0 && c.at < frames)
    .sort((a, b) => a.at - b.at)
    .filter((c, i, all) => i === 0 || c.at > all[i - 1]!.at)
  if (inside.length === 0) return null
  const list = inside[0]!.at > 0 ? [{ at: 0, name: '' }, ...inside] : inside
  const samples = list.map((c) => {
    const text = new TextEncoder().encode(c.name).subarray(0, 4000)
    const w = new Writer().u16(text.length).raw(text)
    // says that the text is UTF-8
    return brand === 'mov' ? w.u32(12).tag('encd').u32(0x100).bytes() : w.bytes()
  })
  const track: WrapTrack = {
    kind: 'chapters',
    timescale: rate.num,
    sampleEntry: brand === 'mov' ? quickTimeText : timedText,
    sizes: Uint32Array.from(samples, (s) => s.length),
    durations: Uint32Array.from(list, (c, i) => ((list[i + 1]?.at ?? frames) - c.at) * rate.den),
    chunks: [{ offset, samples: samples.length }],
  }
  return { track, bytes: concatBytes(samples) }
}

const quickTimeText = box(
  'text',
  new Writer().zero(6).u16(1).u32(1).u32(1).zero(6).zero(8).zero(8).u16(0).u16(0).u8(0).u16(0).zero(6).u8(0).bytes(),
)
const timedText = box(
  'tx3g',
  new Writer()
    .zero(6)
    .u16(1)
    .u32(0)
    .u8(1)
    .u8(0xff)
    .zero(4)
    .zero(8)
    .u16(0)
    .u16(0)
    .u16(1)
    .u8(0)
    .u8(18)
    .u32(0xffffffff)
    .bytes(),
  box('ftab', new Writer().u16(1).u16(1).u8(5).raw(new TextEncoder().encode('Serif')).bytes()),
)
