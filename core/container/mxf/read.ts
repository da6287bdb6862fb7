import type { ByteSource } from '../../bytes'
import { aes3Channels, aes3Header } from '../../codec/pcm/aes3'
import { pictureCodecCalled } from '../../codec/registry'
import { variableRate } from '../../media/media'
import type {
  AudioTrack,
  Colour,
  Media,
  MediaChapter,
  PcmLayout,
  Scan,
  StartTimecode,
  VideoTrack,
} from '../../media/media'
import { fail, type Problem } from '../../problem'
import { plural } from '../../text'
import { framesToSeconds, makeRate, type Rate } from '../../time/rate'
import { formatTimecode } from '../../time/timecode'
import { codePoints, colourLabels, definitions } from './labels'
import { cutClip, findEssence, keyFault, readIndex, type Elements, type Essence, type Index } from './elements'
import { readMetadata, type Metadata, type ReadSet } from './metadata'
import { KlvReader, partitionsOf, type Partition } from './partitions'

/** Of a track's number, its item and its element: those of eight channels of D-10 (SMPTE ST 386 6.3). */
const [itemAndElement, elementsOfWords] = [0xff00ff00, 0x06001000]
const copyAgain = 'Copy the file again from where it came from.'

/** Opens an MXF file, OP1a or OP-Atom, from any writer (SMPTE ST 377-1, ST 378, ST 390): metadata and index only. */
export async function openMxf(source: ByteSource): Promise<Media> {
  const problems: Problem[] = []
  const partitions = await partitionsOf(source, problems)
  const reader = new KlvReader(source)
  const metadata = await bestMetadata(reader, partitions)
  const file = packagesOf(metadata, source.name)
  const data = [...metadata.values()].find(
    (s) => s.kind === 'essenceData' && s.label('linkedPackage') === file.source.label('packageId'),
  )
  const bodySid = data?.u32('bodySid') || (partitions.find((p) => p.bodySid > 0)?.bodySid ?? 1)
  const index = await readIndex(reader, partitions, bodySid)
  const essence = await findEssence(reader, partitions, bodySid, index)
  problems.push(...essenceProblems(essence, source))
  const rate = file.rate
  const video: VideoTrack[] = []
  const audio: AudioTrack[] = []
  for (const t of file.tracks) {
    const elements = essence.tracks.get(t.number)
    if (!elements || elements.count === 0) {
      problems.push({
        code: 'mxf.empty-track',
        damage: true,
        message: `Track ${t.id} has no essence in this file.`,
        where: source.name,
      })
      continue
    }
    if (t.definition === definitions.picture) {
      const track = await pictureTrack(source, t, elements, index, rate)
      video.push(track)
      if (t.duration !== null && track.info.frames < t.duration - t.start)
        problems.push(short(t.duration - t.start, track.info.frames, source.name))
    } else if (t.definition === definitions.sound) {
      const fault = await wordsFault(source, t, elements)
      if (fault) problems.push(fault)
      else audio.push(soundTrack(t, elements, rate))
    }
  }
  const essenceAt = Math.min(...[...essence.tracks.values()].map((e) => (e.count ? e.at(0) : Infinity)))
  const clips = file.tracks.some((t) => essence.tracks.get(t.number)?.count === 1 && (t.duration ?? 0) > 1)
  if (video.length === 0 && audio.length === 0)
    fail('media.nothing', 'There are neither pictures nor sound in this file.', source.name, 'Choose another file.')
  const first = video[0]?.info
  if (first && !first.constantRate) problems.push(variableRate(first.rate, source.name))
  const seconds = first ? framesToSeconds(first.frames, first.rate) : audio[0]!.info.samples / audio[0]!.info.sampleRate
  return {
    source,
    video,
    audio,
    info: {
      container: 'mxf',
      indexAt: index && index.at < essenceAt ? 'front' : 'end',
      size: source.size,
      durationFrames: first?.frames ?? null,
      durationSeconds: seconds,
      timecode: file.timecode,
      video: video.map((v) => v.info),
      audio: audio.map((a) => a.info),
      chapters: file.chapters,
      ...(file.metadata ? { metadata: file.metadata } : {}),
      bext: null,
      structure: { pattern: patternName(partitions[0]!.pattern), wrapping: clips ? 'clip' : 'frame' },
      problems,
    },
  }
}

/** What is not whole of a file's essence. */
function essenceProblems({ broken, lost }: Essence, source: ByteSource): Problem[] {
  const out: Problem[] = []
  if (broken)
    out.push({
      code: 'file.truncated',
      damage: true,
      message: `The file ends at byte ${source.size}, in the middle of its pictures or sound; whole frames are read.`,
      where: source.name,
      fix: copyAgain,
    })
  if (lost !== null)
    out.push({
      code: 'mxf.damaged',
      damage: true,
      message: `At byte ${lost} there is no key where one should be; what follows there is not read.`,
      where: source.name,
      fix: copyAgain,
    })
  return out
}

const short = (asked: number, there: number, where: string): Problem => ({
  code: 'mxf.short',
  damage: true,
  message: `The file says it has ${plural(asked, 'frame')}; there are ${there}.`,
  where,
  fix: copyAgain,
})

/** What an operational pattern is called (ST 377-1 8.3.3): of items and packages, or for a single track. */
function patternName(label: string): string {
  const item = parseInt(label.slice(24, 26), 16)
  if (item === 0x10) return 'OP-Atom'
  return `OP${item}${' abc'[parseInt(label.slice(26, 28), 16)] ?? '?'}`
}

/** The metadata of the header, or of the footer where that of the header is not complete. */
async function bestMetadata(reader: KlvReader, partitions: readonly Partition[]): Promise<Metadata> {
  const ranked = [...partitions].sort((a, b) => Number(b.complete) - Number(a.complete) || b.at - a.at)
  const head = partitions[0]!
  for (const from of head.complete && head.closed ? [head, ...ranked] : [...ranked, head]) {
    const metadata = await readMetadata(reader, from)
    if ([...metadata.values()].some((s) => s.kind === 'source')) return metadata
  }
  return new Map()
}

/** A track of the file's programme. */
interface Track {
  readonly id: number
  readonly number: number
  readonly definition: string
  readonly descriptor: ReadSet
  /** Edit units before the first that is shown. */
  readonly start: number
  readonly duration: number | null
}

function packagesOf(metadata: Metadata, name: string) {
  const all = [...metadata.values()]
  const material = all.find((s) => s.kind === 'material')
  const source =
    all.find((s) => s.kind === 'source' && metadata.get(s.label('descriptor') ?? '')?.label('essenceContainer')) ??
    fail(
      'mxf.no-metadata',
      'The file does not say what it holds: there is no description of its essence in it.',
      name,
      'It was not closed, or is damaged. Copy it again, or ask for it again.',
    )
  const of = (ids: readonly string[]) => ids.flatMap((id) => metadata.get(id) ?? [])
  const componentsOf = (track: ReadSet) => {
    const sequence = metadata.get(track.label('sequence') ?? '')
    const list = sequence ? of(sequence.list('components')) : []
    return { sequence, list: list.length ? list : sequence ? [sequence] : [] }
  }
  const descriptors = descriptorsOf(metadata, source)
  const shown = material ? of(material.list('tracks')) : []
  const tracks: Track[] = []
  let rate: Rate | null = null
  for (const track of of(source.list('tracks'))) {
    const { sequence } = componentsOf(track)
    const definition = family(sequence?.label('definition') ?? '')
    if (definition !== definitions.picture && definition !== definitions.sound) continue
    const id = track.u32('trackId') ?? 0
    const descriptor = descriptors.find((d) => d.u32('linkedTrack') === id) ?? descriptors[0]
    if (!descriptor) continue
    // where the programme begins in the essence: its clip says
    const clip = shown
      .flatMap((t) => componentsOf(t).list)
      .find(
        (c) =>
          c.kind === 'clip' && c.u32('sourceTrack') === id && c.label('sourcePackage') === source.label('packageId'),
      )
    const start = Math.max(0, (clip?.i64('startPosition') ?? 0) + (track.i64('origin') ?? 0))
    const long = descriptor.i64('containerDuration') ?? sequence?.i64('duration') ?? -1
    tracks.push({
      id,
      number: track.u32('trackNumber') ?? 0,
      definition,
      descriptor,
      start,
      duration: long < 0 ? null : long,
    })
    const own = track.rate('editRate')
    if (definition === definitions.picture || !rate) rate = own ?? rate
  }
  const chapters = shown
    .filter((t) => t.kind === 'eventTrack')
    .flatMap((t) => chaptersOf(t, componentsOf(t).list, rate ?? makeRate(25)))
  const fields = shown.filter((t) => t.kind === 'staticTrack').flatMap((t) => fieldsOf(componentsOf(t).list))
  return {
    source,
    chapters,
    metadata: fields.length ? Object.fromEntries(fields) : null,
    tracks,
    rate: rate ?? makeRate(25),
    timecode: timecodeOf(
      [...shown, ...of(source.list('tracks'))].flatMap((t) => componentsOf(t).list),
      rate ?? makeRate(25),
    ),
  }
}

/** Markers of an event track that say something, as chapters. */
function chaptersOf(track: ReadSet, segments: readonly ReadSet[], rate: Rate): MediaChapter[] {
  const { num, den } = track.rate('eventRate') ?? rate
  const origin = track.i64('eventOrigin') ?? 0
  return segments
    .flatMap((s) => {
      const name = s.text('eventComment')
      const at = s.i64('eventStart')
      // places count edit units: ticks of the rate are as many times its denominator
      return s.kind === 'marker' && name && at !== null ? [{ at: (at - origin) * den, timescale: num, name }] : []
    })
    .sort((a, b) => a.at - b.at)
}

/** Fields of programme metadata in the comments of a static track. */
function fieldsOf(segments: readonly ReadSet[]): [string, string][] {
  return segments.flatMap((s) => {
    const [, name, said] = /^([^=]+)=([^]*)$/.exec(s.text('eventComment') ?? '') ?? []
    return s.kind === 'marker' && name && said !== undefined
      ? [[name.replace(/%3D|%25/g, decodeURIComponent), said] satisfies [string, string]]
      : []
  })
}

/** Labels of definitions without the byte in which registers' versions differ. */
function family(label: string): string {
  const all = Object.values(definitions)
  return all.find((d) => d.slice(0, 14) === label.slice(0, 14) && d.slice(16) === label.slice(16)) ?? label
}

function descriptorsOf(metadata: Metadata, source: ReadSet): ReadSet[] {
  const top = metadata.get(source.label('descriptor') ?? '')
  if (!top) return []
  if (top.kind !== 'multiple') return [top]
  return top.list('subDescriptors').flatMap((id) => metadata.get(id) ?? [])
}

function timecodeOf(components: readonly ReadSet[], rate: Rate): StartTimecode | null {
  const t = components.find((c) => c.kind === 'timecode')
  const base = t?.u16('timecodeBase')
  const startFrames = t?.i64('startTimecode')
  if (!t || !base || startFrames === null || startFrames === undefined) return null
  const dropFrame = t.u8('dropFrame') === 1
  const counted = Math.round(rate.num / rate.den) === base ? rate : makeRate(base)
  const drops = dropFrame && (base === 30 || base === 60) && counted.den === 1001
  return {
    start: formatTimecode(startFrames, { rate: counted, dropFrame: drops }),
    startFrames,
    rate: counted,
    dropFrame: drops,
  }
}

const layouts: Readonly<Record<number, (dominance: number | null) => Scan>> = {
  0: () => 'progressive',
  1: (first) => (first === 2 ? 'interlaced-bff' : 'interlaced-tff'),
  3: () => 'interlaced',
  4: () => 'segmented',
}

async function pictureTrack(
  source: ByteSource,
  t: Track,
  found: Elements,
  index: Index | null,
  rate: Rate,
): Promise<VideoTrack> {
  const d = t.descriptor
  const coding = d.label('pictureCoding') ?? ''
  const codec = pictureCodecCalled('mxf', coding.slice(0, 14) + coding.slice(16))
  const elements = found.count === 1 && (t.duration ?? 0) > 1 ? cutClip(found, index, null) : found
  const head = elements.count > 0 ? await source.read(elements.at(0), Math.min(elements.size(0), 1 << 16)) : null
  const said = codec?.describe(null, head) ?? {}
  const lines = d.u32('sampledHeight') ?? d.u32('storedHeight') ?? 0
  const frameLayout = d.u8('frameLayout') ?? 0
  const fields = frameLayout === 1 || frameLayout === 2 || frameLayout === 4
  const vertical = d.u32('verticalSubsampling') ?? 1
  const horizontal = d.u32('horizontalSubsampling') ?? 2
  const ratio = d.rate('aspectRatio')
  const width = said.width ?? d.u32('sampledWidth') ?? d.u32('storedWidth') ?? 0
  const height = said.height ?? (fields ? lines * 2 : lines)
  const frames = Math.max(0, elements.count - t.start)
  const entries = index && index.entries.length >= elements.count ? index.entries : null
  const intra = !entries || entries.every((e) => e.temporal === 0 && e.sync)
  const place = (n: number) => n + t.start + (entries?.[n + t.start]?.temporal ?? 0)
  const shownAt = new Map<number, number>()
  if (entries) for (let n = 0; n < frames; n++) shownAt.set(place(n), n)
  return {
    info: {
      codec: said.codec ?? codec?.name ?? (coding || 'unknown'),
      profile: said.profile ?? null,
      level: said.level ?? null,
      width,
      height,
      rate,
      constantRate: true,
      scan: layouts[frameLayout]?.(d.u8('fieldDominance')) ?? said.scan ?? 'progressive',
      chroma: said.chroma ?? (horizontal === 1 ? '4:4:4' : vertical === 2 ? '4:2:0' : '4:2:2'),
      bitDepth: said.bitDepth ?? d.u32('componentDepth') ?? 8,
      pixelAspect: ratio ? pixelAspect(ratio, width, height) : (said.pixelAspect ?? '1:1'),
      colour: colourOf(d, said.colour ?? null),
      frames,
      intra,
      webCodec: said.webCodec ?? null,
    },
    timescale: rate.num,
    sampleCount: elements.count,
    sample: (i) => ({
      offset: elements.at(i),
      size: elements.size(i),
      dts: i * rate.den,
      pts: (shownAt.get(i) ?? i - t.start) * rate.den,
      sync: entries?.[i]?.sync ?? true,
    }),
    sampleOfFrame: (n) => Math.min(elements.count - 1, Math.max(0, place(n))),
    syncBefore(i) {
      while (entries && i > 0 && !entries[i]!.sync) i--
      return i
    },
    configuration: null,
    native: null,
  }
}

/** How much wider than high a pixel is, as a fraction. */
function pixelAspect(ratio: Rate, width: number, height: number): string {
  if (width === 0 || height === 0) return '1:1'
  const r = makeRate(ratio.num * height, ratio.den * width)
  return Math.abs(r.num / r.den - 1) < 0.01 ? '1:1' : `${r.num}:${r.den}`
}

/** The colour that is described; what is not, as the stream itself has it. */
function colourOf(d: ReadSet, stream: Colour | null): Colour | null {
  // one label stands for several code points: that of the stream, else what goes with the primaries
  const point = (name: 'primaries' | 'transfer' | 'matrix', usual: number) => {
    const label = d.label(name)
    const points = label ? codePoints(colourLabels[name], label) : []
    return [stream?.[name], usual].find((p) => p !== undefined && points.includes(p)) ?? points[0] ?? null
  }
  const primaries = point('primaries', 1)
  const usual = primaries === 5 || primaries === 6 ? 6 : 1
  const [transfer, matrix] = [point('transfer', usual), point('matrix', usual)]
  if (primaries === null && transfer === null && matrix === null) return stream
  const depth = d.u32('componentDepth') ?? 8
  const range = d.u32('colourRange')
  const fullRange = range !== null && range >= 2 ** depth - 1
  return {
    primaries: primaries ?? stream?.primaries ?? 2,
    transfer: transfer ?? stream?.transfer ?? 2,
    matrix: matrix ?? stream?.matrix ?? 2,
    fullRange: range === null ? (stream?.fullRange ?? false) : fullRange,
  }
}

/** How the samples of a track lie in its elements: PCM, or the eight channels of D-10 behind a header. */
function layoutIn(t: Track): { readonly pcm: PcmLayout; readonly channels: number; readonly header: number } {
  const channels = Math.max(1, t.descriptor.u32('channels') ?? 1)
  if ((t.number & itemAndElement) === elementsOfWords) {
    const pcm = { bytesPerSample: 4, kind: 'aes3', littleEndian: true, channels: aes3Channels } as const
    return { pcm, channels: Math.min(channels, aes3Channels), header: aes3Header }
  }
  const frameBytes = t.descriptor.u16('blockAlign') || channels * Math.ceil(depthOf(t) / 8)
  const bytesPerSample = Math.max(1, Math.round(frameBytes / channels))
  return { pcm: { bytesPerSample, kind: 'int', littleEndian: true, channels }, channels, header: 0 }
}

const depthOf = ({ descriptor }: Track) => descriptor.u32('quantisation') ?? 24

/** What is wrong with elements of eight channels: the first of them do not hold what they say. */
async function wordsFault(source: ByteSource, t: Track, found: Elements): Promise<Problem | null> {
  const { pcm, header } = layoutIn(t)
  if (header === 0) return null
  for (let i = 0; i < Math.min(found.count, 5); i++) {
    const head = await source.read(found.at(i), header)
    const said = (head[1] ?? 0) | ((head[2] ?? 0) << 8)
    const room = Math.floor((found.size(i) - header) / (pcm.bytesPerSample * pcm.channels))
    if (said !== room)
      return {
        code: 'mxf.samples',
        damage: true,
        message: `An element of sound says that it has ${said} samples; there is room for ${room}.`,
        where: source.name,
        fix: copyAgain,
      }
  }
  return null
}

function soundTrack(t: Track, found: Elements, rate: Rate): AudioTrack {
  const d = t.descriptor
  const { pcm, channels, header } = layoutIn(t)
  const frameBytes = pcm.bytesPerSample * pcm.channels
  const sampleRate = Math.round((d.rate('soundRate')?.num ?? 48000) / (d.rate('soundRate')?.den ?? 1))
  const counts = runsOf(found, frameBytes, header)
  // where the programme begins: behind the elements before its first frame, of a clip behind so many samples
  const skipped = found.count === 1 ? Math.round((t.start * sampleRate * rate.den) / rate.num) : counts.before(t.start)
  const samples = Math.max(0, counts.total - skipped)
  return {
    info: { codec: 'pcm', channels, sampleRate, bitDepth: depthOf(t), samples, layout: null, webCodec: null },
    start: skipped,
    pcm,
    packetCount: 0,
    configuration: null,
    native: null,
    packet: () => fail('internal.error', 'PCM sound has no packets.'),
    run(at) {
      const i = counts.find(at)
      const inside = at - counts.before(i)
      const there = Math.floor((found.size(i) - header) / frameBytes)
      return { offset: found.at(i) + header + inside * frameBytes, samples: there - inside }
    },
  }
}

/** How many samples lie before each element of a track. */
function runsOf(found: Elements, frameBytes: number, header = 0) {
  const starts = new Float64Array(found.count + 1)
  for (let i = 0; i < found.count; i++) starts[i + 1] = starts[i]! + Math.floor((found.size(i) - header) / frameBytes)
  return {
    total: starts[found.count]!,
    before: (i: number) => starts[Math.min(i, found.count)]!,
    find(at: number) {
      let [from, to] = [0, found.count - 1]
      while (from < to) {
        const middle = (from + to + 1) >> 1
        if (starts[middle]! <= at) from = middle
        else to = middle - 1
      }
      return from
    },
  }
}

/** What is wrong with the structure of a whole file, key by key; null when nothing is. */
export async function structureFault(source: ByteSource): Promise<string | null> {
  const reader = new KlvReader(source)
  const problems: Problem[] = []
  const partitions = await partitionsOf(source, problems)
  const bodies = new Set(partitions.map((p) => p.bodySid).filter((sid) => sid > 0))
  const essence = []
  for (const sid of bodies)
    essence.push(await findEssence(reader, partitions, sid, await readIndex(reader, partitions, sid)))
  return problems[0]?.message ?? (await keyFault(reader, essence))
}
