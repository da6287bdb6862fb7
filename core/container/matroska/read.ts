import type { ByteSource } from '../../bytes'
import { fail, type Problem } from '../../problem'
import { lastWhere } from '../../time/order'
import { framesToSeconds, makeRate, nearestRate, type Rate } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { pictureCodecCalled, soundCodecCalled } from '../../codec/registry'
import {
  variableRate,
  type AudioInfo,
  type AudioTrack,
  type Media,
  type MediaChapter,
  type PcmLayout,
  type VideoInfo,
  type VideoTrack,
} from '../../media/media'

/** Element numbers used here (RFC 8794 EBML, RFC 9559 Matroska). */
const id = {
  ebml: 0x1a45dfa3,
  docType: 0x4282,
  segment: 0x18538067,
  info: 0x1549a966,
  scale: 0x2ad7b1,
  tracks: 0x1654ae6b,
  entry: 0xae,
  number: 0xd7,
  type: 0x83,
  codec: 0x86,
  codecPrivate: 0x63a2,
  codecDelay: 0x56aa,
  defaultDuration: 0x23e383,
  video: 0xe0,
  width: 0xb0,
  height: 0xba,
  displayWidth: 0x54b0,
  displayHeight: 0x54ba,
  interlaced: 0x9a,
  audio: 0xe1,
  rate: 0xb5,
  channels: 0x9f,
  bits: 0x6264,
  cluster: 0x1f43b675,
  time: 0xe7,
  simple: 0xa3,
  group: 0xa0,
  block: 0xa1,
  reference: 0xfb,
  chapters: 0x1043a770,
  edition: 0x45b9,
  atom: 0xb6,
  start: 0x91,
  display: 0x80,
  text: 0x85,
  encodings: 0x6d80,
} as const
const masters = new Set<number>([id.segment, id.cluster, id.group])
const mostBlocks = 40_000_000

/** Reads forward through a large source by pieces, so that the head of every block costs no read of its own. */
class Window {
  private bytes: Uint8Array = new Uint8Array(0)
  private from = 0

  constructor(private readonly source: ByteSource) {}

  async at(offset: number, length: number): Promise<Uint8Array> {
    if (offset < this.from || offset + length > this.from + this.bytes.length) {
      this.bytes = await this.source.read(offset, Math.max(length, 1 << 18))
      this.from = offset
    }
    return this.bytes.subarray(offset - this.from, Math.min(this.bytes.length, offset - this.from + length))
  }
}

/** A variable-length number: its value, its bytes; all ones means unknown (RFC 8794 4). */
function variable(
  bytes: Uint8Array,
  at: number,
  keepMarker: boolean,
): { value: number; length: number; unknown: boolean } | null {
  const first = bytes[at]
  if (first === undefined || first === 0) return null
  const length = Math.clz32(first) - 23
  if (at + length > bytes.length) return null
  let value = keepMarker ? first : first & (0xff >> length)
  let ones = (first & (0xff >> length)) === 0xff >> length
  for (let i = 1; i < length; i++) {
    value = value * 256 + bytes[at + i]!
    if (bytes[at + i] !== 0xff) ones = false
  }
  return { value, length, unknown: ones }
}

interface Element {
  readonly id: number
  readonly body: number
  readonly size: number
  readonly unknown: boolean
}

/** The elements inside bytes already read. */
function* elements(bytes: Uint8Array): Generator<{ id: number; data: Uint8Array }> {
  for (let at = 0; at < bytes.length;) {
    const name = variable(bytes, at, true)
    const size = name && variable(bytes, at + name.length, false)
    if (!name || !size) return
    const body = at + name.length + size.length
    if (body + size.value > bytes.length) return
    yield { id: name.value, data: bytes.subarray(body, body + size.value) }
    at = body + size.value
  }
}
const unsigned = (b: Uint8Array) => b.reduce((n, v) => n * 256 + v, 0)
const float = (b: Uint8Array) =>
  b.length === 4 || b.length === 8
    ? new DataView(b.buffer, b.byteOffset, b.length)[b.length === 4 ? 'getFloat32' : 'getFloat64'](0)
    : 0
const words = (b: Uint8Array) => new TextDecoder().decode(b).replace(/\0[^]*$/, '')
function field(bytes: Uint8Array, which: number): Uint8Array | null {
  for (const e of elements(bytes)) if (e.id === which) return e.data
  return null
}

interface Track {
  readonly number: number
  readonly kind: number
  readonly codec: string
  readonly private: Uint8Array | null
  readonly delay: number
  readonly duration: number
  readonly video: Uint8Array | null
  readonly audio: Uint8Array | null
  readonly offsets: number[]
  readonly sizes: number[]
  /** In ticks of the file's timestamp scale. */
  readonly times: number[]
  readonly sync: number[]
  /** Samples of each Opus packet; empty for other sound. */
  readonly lengths: number[]
}

/** Opens a Matroska or WebM file, reading the head of every block once (RFC 9559). */
export async function openMatroska(source: ByteSource): Promise<Media> {
  const view = new Window(source)
  const problems: Problem[] = []
  const tracks = new Map<number, Track>()
  const chapters: MediaChapter[] = []
  let doctype = 'matroska'
  let scale = 1_000_000
  let clusterTime = 0
  let blocks = 0
  const header = async (at: number): Promise<Element | null> => {
    const bytes = await view.at(at, 16)
    const name = variable(bytes, 0, true)
    const size = name && variable(bytes, name.length, false)
    return name && size
      ? { id: name.value, body: at + name.length + size.length, size: size.value, unknown: size.unknown }
      : null
  }
  const whole = async (e: Element, most = 16 << 20): Promise<Uint8Array> => {
    if (e.size > most)
      fail(
        'matroska.size',
        `An element at byte ${e.body} claims ${e.size} bytes, more than makes sense.`,
        source.name,
        'The file is damaged; copy it again from where it came from.',
      )
    return source.read(e.body, e.size)
  }
  let cut = false
  let hasIndex = false
  for (let at = 0; at < source.size;) {
    const e = await header(at)
    if (!e) {
      cut = true
      break
    }
    if (e.id === id.group || e.id === id.simple) {
      if (++blocks > mostBlocks) fail('matroska.blocks', 'The file has more blocks than makes sense.', source.name)
      if (e.body + e.size > source.size) {
        cut = true
        break
      }
      await readBlock(e)
      at = e.body + e.size
      continue
    }
    // what is inside these is walked through; the rest is read whole or stepped over
    if (masters.has(e.id)) {
      if (!e.unknown && e.body + e.size > source.size) cut = true
      at = e.body
      continue
    }
    if (e.body + e.size > source.size) {
      cut = true
      break
    }
    if (e.id === id.ebml) doctype = words(field(await whole(e), id.docType) ?? new Uint8Array(0)) || doctype
    else if (e.id === id.info)
      scale = unsigned(field(await whole(e), id.scale) ?? Uint8Array.of(0x0f, 0x42, 0x40)) || 1_000_000
    else if (e.id === id.tracks) for (const t of elements(await whole(e))) if (t.id === id.entry) addTrack(t.data)
    if (e.id === id.time) clusterTime = unsigned((await whole(e)).subarray(0, 8))
    else if (e.id === id.chapters) readChapters(await whole(e))
    else if (e.id === 0x1c53bb6b) hasIndex = true
    at = e.body + e.size
  }

  function addTrack(bytes: Uint8Array) {
    const n = (which: number) => unsigned((field(bytes, which) ?? new Uint8Array(0)).subarray(0, 8))
    if (field(bytes, id.encodings))
      problems.push({
        code: 'matroska.encoding',
        message: `Track ${n(id.number)} is compressed or encrypted as a whole and is left out.`,
        where: source.name,
        fix: 'Ask for the file without it.',
      })
    else
      tracks.set(n(id.number), {
        number: n(id.number),
        kind: n(id.type),
        codec: words(field(bytes, id.codec) ?? new Uint8Array(0)),
        private: field(bytes, id.codecPrivate),
        delay: n(id.codecDelay),
        duration: n(id.defaultDuration),
        video: field(bytes, id.video),
        audio: field(bytes, id.audio),
        offsets: [],
        sizes: [],
        times: [],
        sync: [],
        lengths: [],
      })
  }

  async function readBlock(e: Element): Promise<void> {
    let { body, size } = e
    let sync: number | null = null
    if (e.id === id.group) {
      // a group holds its block and, for pictures that lean on others, a reference
      let found: Element | null = null
      let leans = false
      for (let at = e.body; at < e.body + e.size;) {
        const part = await header(at)
        if (!part || part.body + part.size > e.body + e.size) break
        if (part.id === id.block) found = part
        if (part.id === id.reference) leans = true
        at = part.body + part.size
      }
      if (!found) return
      ;({ body, size } = found)
      sync = leans ? 0 : 1
    }
    const head = await view.at(body, Math.min(size, 1024))
    const number = variable(head, 0, false)
    if (!number || head.length < number.length + 3) return
    const track = tracks.get(number.value)
    if (!track) return
    const relative = ((head[number.length]! << 24) >> 16) | head[number.length + 1]!
    const flags = head[number.length + 2]!
    const start = number.length + 3
    const frames = laced(head, start, size, (flags >> 1) & 3)
    let offset = body + (frames[0]?.skip ?? start)
    for (const f of frames) {
      if (track.codec === 'A_OPUS') {
        const first = await view.at(offset, 2)
        track.lengths.push(opusSamples(first[0] ?? 0, first[1] ?? 0))
      }
      track.offsets.push(offset)
      track.sizes.push(f.size)
      track.times.push(clusterTime + relative)
      track.sync.push(sync ?? flags >> 7)
      offset += f.size
    }
  }

  function readChapters(bytes: Uint8Array) {
    for (const edition of elements(bytes)) {
      if (edition.id !== id.edition) continue
      for (const atom of elements(edition.data)) {
        if (atom.id !== id.atom || chapters.length >= 10_000) continue
        const display = field(atom.data, id.display)
        // in microseconds: a day of nanoseconds is more than a double holds exactly with a factor
        chapters.push({
          at: Math.round(unsigned((field(atom.data, id.start) ?? new Uint8Array(0)).subarray(0, 8)) / 1000),
          timescale: 1_000_000,
          name: display ? words(field(display, id.text) ?? new Uint8Array(0)) : '',
        })
      }
    }
  }

  if (tracks.size === 0)
    fail(
      'matroska.no-tracks',
      'The file ends before it says what it holds.',
      source.name,
      'The recording or the copy was not finished. Copy it again.',
    )
  if (cut)
    problems.push({
      code: 'file.truncated',
      message: `The file breaks off at byte ${source.size}; it is read up to its last whole frame.`,
      where: source.name,
      fix: 'Copy the file again from where it came from.',
    })
  const video: VideoTrack[] = []
  const audio: AudioTrack[] = []
  for (const t of tracks.values()) {
    if (t.offsets.length === 0) continue
    if (t.kind === 1 && t.video)
      video.push(
        videoTrack(t, scale, t.private ? null : await source.read(t.offsets[0]!, Math.min(t.sizes[0]!, 1 << 16))),
      )
    else if (t.kind === 2 && t.audio) audio.push(audioTrack(t, scale, source))
  }
  if (video.length === 0 && audio.length === 0)
    fail('media.nothing', 'There are neither pictures nor sound in this file.', source.name, 'Choose another file.')
  const first = video[0]?.info
  if (first && !first.constantRate) problems.push(variableRate(source.name))
  const sound = audio[0]?.info
  return {
    source,
    video,
    audio,
    info: {
      container: doctype === 'webm' ? 'webm' : 'matroska',
      indexAt: hasIndex ? 'end' : 'fragments',
      size: source.size,
      durationFrames: first?.frames ?? null,
      durationSeconds: first ? framesToSeconds(first.frames, first.rate) : sound ? sound.samples / sound.sampleRate : 0,
      timecode: null,
      video: video.map((v) => v.info),
      audio: audio.map((a) => a.info),
      chapters: chapters.sort((a, b) => a.at - b.at),
      bext: null,
      problems,
    },
  }
}

/**
 * The frames of a block: alone, or several laced together (RFC 9559 10.3). `skip` of the first is where data begins in
 * the block.
 */
function laced(head: Uint8Array, start: number, size: number, lacing: number): { size: number; skip?: number }[] {
  if (lacing === 0) return [{ size: size - start, skip: start }]
  const count = (head[start] ?? 0) + 1
  let at = start + 1
  const sizes: number[] = []
  if (lacing === 1) {
    for (let i = 0; i + 1 < count; i++) {
      let n = 0
      let b = 255
      while (b === 255 && at < head.length) {
        b = head[at++]!
        n += b
      }
      sizes.push(n)
    }
  } else if (lacing === 3) {
    let n = 0
    for (let i = 0; i + 1 < count; i++) {
      const v = variable(head, at, false)
      if (!v) return []
      // the first is a size, the others are differences, biased to be positive
      n = i === 0 ? v.value : n + v.value - (2 ** (7 * v.length - 1) - 1)
      at += v.length
      sizes.push(n)
    }
  }
  const rest = size - at - sizes.reduce((n, s) => n + s, 0)
  if (lacing === 2)
    return Array.from({ length: count }, (_, i) => ({
      size: Math.floor((size - at) / count),
      ...(i === 0 ? { skip: at } : {}),
    }))
  if (rest < 0 || sizes.some((s) => s < 0)) return []
  return [...sizes, rest].map((s, i) => ({ size: s, ...(i === 0 ? { skip: at } : {}) }))
}

function videoTrack(t: Track, scale: number, unit: Uint8Array | null): VideoTrack {
  const n = (which: number) => unsigned((field(t.video!, which) ?? new Uint8Array(0)).subarray(0, 8))
  const [width, height] = [n(id.width), n(id.height)]
  const count = t.offsets.length
  const order = Array.from({ length: count }, (_, i) => i).sort((a, b) => t.times[a]! - t.times[b]! || a - b)
  const place = new Int32Array(count)
  order.forEach((index, frame) => (place[index] = frame))
  const { rate, constant } = rateOf(t, order, scale)
  const codec = pictureCodecCalled('matroska', t.codec)
  const said = codec?.describe(t.private, unit) ?? {}
  const configuration = codec?.calls.mp4?.box ? t.private : null
  const info: Omit<VideoInfo, 'rate' | 'constantRate' | 'frames' | 'intra'> = {
    codec: codec?.name ?? t.codec.replace(/^V_/, '').toLowerCase(),
    profile: said.profile ?? null,
    level: said.level ?? null,
    width: t.private ? (said.width ?? width) : width,
    height: t.private ? (said.height ?? height) : height,
    scan: said.scan ?? (n(id.interlaced) === 1 ? 'interlaced' : 'progressive'),
    chroma: said.chroma ?? '4:2:0',
    bitDepth: said.bitDepth ?? 8,
    pixelAspect: said.pixelAspect ?? aspectOf(width, height, n(id.displayWidth), n(id.displayHeight)),
    colour: said.colour ?? null,
    webCodec: said.webCodec ?? null,
  }
  // times of whole frames: the file's own are rounded to its ticks
  const delay = t.times.reduce((most, _, i) => Math.max(most, i - place[i]!), 0)
  return {
    info: { ...info, rate, constantRate: constant, frames: count, intra: t.sync.every((s) => s === 1) },
    timescale: rate.num,
    sampleCount: count,
    configuration,
    native: null,
    sample: (i) => ({
      offset: t.offsets[i]!,
      size: t.sizes[i]!,
      dts: (i - delay) * rate.den,
      pts: place[i]! * rate.den,
      sync: t.sync[i] === 1,
    }),
    sampleOfFrame: (frame) => order[frame]!,
    syncBefore: (i) => {
      let k = i
      while (k > 0 && t.sync[k] !== 1) k--
      return k
    },
  }
}

function aspectOf(width: number, height: number, displayWidth: number, displayHeight: number): string {
  if (!displayWidth || !displayHeight || !width || !height) return '1:1'
  const r = makeRate(displayWidth * height, displayHeight * width)
  return Math.abs(r.num / r.den - 1) < 0.01 ? '1:1' : `${r.num}:${r.den}`
}

/**
 * The rate a track says, else that of its mean frame; constant when no frame lies more than its rounding beside its
 * place.
 */
function rateOf(t: Track, order: readonly number[], scale: number): { rate: Rate; constant: boolean } {
  const [first, last] = [t.times[order[0]!]!, t.times[order.at(-1)!]!]
  const mean = order.length > 1 ? ((last - first) * scale) / (order.length - 1) : t.duration || 40_000_000
  const wanted = t.duration > 0 && Math.abs(t.duration / mean - 1) < 0.02 ? t.duration : mean
  const value = 1e9 / Math.max(1, wanted)
  const rate = nearestRate(value) ?? makeRate(Math.max(1, Math.round(value * 1000)), 1000)
  const step = (1e9 * rate.den) / rate.num / scale
  return {
    rate,
    constant: order.every((index, n) => Math.abs(t.times[index]! - first - n * step) <= 1.5 + n * step * 1e-4),
  }
}

/** Samples of an Opus packet at 48 kHz, from its first byte (RFC 6716 3.1). */
function opusSamples(toc: number, second: number): number {
  const config = toc >> 3
  const frame =
    config < 12
      ? [480, 960, 1920, 2880][config & 3]!
      : config < 16
        ? [480, 960][config & 1]!
        : [120, 240, 480, 960][config & 3]!
  return frame * ([1, 2, 2, second & 0x3f][toc & 3] || 1)
}

function audioTrack(t: Track, scale: number, source: ByteSource): AudioTrack {
  const bytes = (which: number) => field(t.audio!, which) ?? new Uint8Array(0)
  const sampleRate = t.codec === 'A_OPUS' ? 48_000 : Math.round(float(bytes(id.rate))) || 8000
  const channels = Math.max(1, Math.min(255, unsigned(bytes(id.channels).subarray(0, 4)) || 1))
  const bits = unsigned(bytes(id.bits).subarray(0, 4)) || 16
  const pcmKind = {
    'A_PCM/INT/LIT': ['int', true],
    'A_PCM/INT/BIG': ['int', false],
    'A_PCM/FLOAT/IEEE': ['float', true],
  }[t.codec] as ['int' | 'float', boolean] | undefined
  const pcm: PcmLayout | null = pcmKind
    ? { bytesPerSample: bits >> 3 || 2, kind: pcmKind[0], littleEndian: pcmKind[1], channels }
    : null
  const codec = soundCodecCalled('matroska', t.codec)
  const base: Omit<AudioInfo, 'samples'> = {
    codec: codec?.name ?? t.codec.replace(/^A_/, '').toLowerCase(),
    channels,
    sampleRate,
    bitDepth: bits,
    layout: null,
    webCodec: codec?.describe(t.private).webCodec ?? null,
  }
  const count = t.offsets.length
  const none = () => fail('internal.error', 'This sound is not read this way.', source.name)
  if (pcm) {
    const frame = pcm.bytesPerSample * channels
    const first = new Float64Array(count + 1)
    for (let i = 0; i < count; i++) first[i + 1] = first[i]! + Math.floor(t.sizes[i]! / frame)
    return {
      info: { ...base, samples: first[count]! },
      start: 0,
      pcm,
      packetCount: 0,
      packet: none,
      configuration: null,
      native: null,
      run: (at) => {
        const block = Math.max(
          0,
          lastWhere(count, (i) => first[i]! <= at),
        )
        return { offset: t.offsets[block]! + (at - first[block]!) * frame, samples: first[block + 1]! - at }
      },
    }
  }
  // packets follow each other without a gap: their places are counted where their length is known, else taken from the
  // clock
  const fixed = codec?.packetSamples ?? 0
  const clock = (i: number) =>
    mulDivRound((t.times[i] ?? t.times.at(-1)!) - t.times[0]!, sampleRate * scale, 1_000_000_000)
  const counted = [0]
  for (const n of t.lengths) counted.push(counted.at(-1)! + n)
  const pts = Float64Array.from({ length: count + 1 }, (_, i) =>
    t.lengths.length ? counted[i]! : fixed ? i * fixed : i < count ? clock(i) : clock(count - 1) + 1024,
  )
  const delay = mulDivRound(t.delay, sampleRate, 1_000_000_000)
  return {
    info: { ...base, samples: Math.max(0, pts[count]! - delay) },
    start: delay,
    pcm: null,
    packetCount: count,
    configuration: t.private && codec?.name !== 'opus' ? t.private : null,
    native: null,
    run: none,
    packet: (i) => ({ offset: t.offsets[i]!, size: t.sizes[i]!, pts: pts[i]!, duration: pts[i + 1]! - pts[i]! }),
  }
}
