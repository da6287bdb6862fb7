import { Reader, type ByteSource } from '../../bytes'
import { fail, type Problem } from '../../problem'
import type { AudioTrack, BextInfo, Media, PcmLayout } from '../../media/media'
import { maskLayout } from './speakers'

function readBext(r: Reader): BextInfo {
  const text = (n: number) =>
    new TextDecoder('latin1')
      .decode(r.part(n))
      .replace(/\0[^]*$/, '')
      .trim()
  const description = text(256)
  const originator = text(32)
  const originatorReference = text(32)
  const date = text(10)
  const time = text(8)
  const timeReference = r.u64le()
  const version = r.left >= 2 ? r.u16le() : 0
  let loudness: number | null = null
  if (version >= 2 && r.left >= 66) {
    r.skip(64)
    const v = r.u16le()
    const signed = v > 32767 ? v - 65536 : v
    loudness = signed === 32767 ? null : signed / 100
  }
  return { description, originator, originatorReference, date, time, timeReference, version, loudness }
}

/** What the chunks of a file say, before it is judged. */
class Chunks {
  readonly problems: Problem[] = []
  readonly cues = new Map<number, number>()
  readonly labels = new Map<number, string>()
  fmt: Reader | null = null
  bext: BextInfo | null = null
  data: { offset: number; size: number } | null = null
  private dataSize64: number | null = null

  constructor(private readonly source: ByteSource) {}

  async read(): Promise<void> {
    const { source } = this
    let at = 12
    for (let chunks = 0; at + 8 <= source.size && chunks < 10_000; chunks++) {
      const h = new Reader(await source.read(at, 8), source.name, at)
      const size = await this.take(h.tag(), at + 8, h.u32le())
      at += 8 + size + (size & 1)
    }
  }

  /** Takes one chunk; gives its true size. */
  private async take(id: string, body: number, size: number): Promise<number> {
    const { source } = this
    const head = async (most: number) => new Reader(await source.read(body, Math.min(size, most)), source.name, body)
    if (id === 'ds64') {
      const r = await head(28)
      if (r.left >= 16) {
        r.skip(8)
        this.dataSize64 = r.u64le()
      }
    } else if (id === 'fmt ') this.fmt = await head(64)
    else if (id === 'bext') {
      const r = await head(700)
      if (r.left >= 346) this.bext = readBext(r)
    } else if (id === 'cue ') this.readCues(await head(1 << 20))
    else if (id === 'LIST') this.readLabels(await head(1 << 20))
    else if (id === 'data')
      return this.takeData(body, size === 0xffffffff && this.dataSize64 !== null ? this.dataSize64 : size)
    return size
  }

  private takeData(body: number, size: number): number {
    const { source } = this
    const there = Math.min(size, source.size - body)
    if (there < size)
      this.problems.push({
        code: 'file.truncated',
        damage: true,
        message: `The sound should reach byte ${body + size}, but the file ends at byte ${source.size}.`,
        where: source.name,
        fix: 'Copy the file again from where it came from.',
      })
    this.data = { offset: body, size: there }
    return there
  }

  /** Places in samples, with names of their own in a LIST of type adtl (RIFF, Multimedia Programming Interface 1.0). */
  private readCues(r: Reader): void {
    const count = r.left >= 4 ? r.u32le() : 0
    for (let i = 0; i < count && r.left >= 24; i++) {
      const cue = r.u32le()
      r.skip(16)
      this.cues.set(cue, r.u32le())
    }
  }

  private readLabels(r: Reader): void {
    if (r.left < 4 || r.tag() !== 'adtl') return
    while (r.left >= 8) {
      const kind = r.tag()
      const length = r.u32le()
      if (length > r.left) return
      const part = r.part(length)
      if (kind === 'labl' && length > 4)
        this.labels.set(
          part[0]! | (part[1]! << 8) | (part[2]! << 16) | (part[3]! << 24),
          new TextDecoder().decode(part.subarray(4)).replace(/\0[^]*$/, ''),
        )
      if (length & 1 && r.left > 0) r.skip(1)
    }
  }
}

interface Format {
  readonly pcm: PcmLayout
  readonly sampleRate: number
  /** Bits of a sample that are in use: the rest of its bytes is nought. */
  readonly bitDepth: number
  readonly layout: string | null
}

/** The format chunk (WAVEFORMATEX and WAVEFORMATEXTENSIBLE): linear PCM, integer or float. */
function readFormat(fmt: Reader, name: string): Format {
  let format = fmt.u16le()
  const channels = fmt.u16le()
  const sampleRate = fmt.u32le()
  fmt.skip(4)
  const blockAlign = fmt.u16le()
  const bits = fmt.u16le()
  let valid = bits
  let layout: string | null = null
  if (format === 0xfffe && fmt.left >= 24) {
    fmt.skip(2)
    valid = fmt.u16le() || bits
    const mask = fmt.u32le()
    format = fmt.u16le()
    layout = maskLayout(mask, channels)
  }
  const bytesPerSample = Math.ceil(bits / 8)
  if (
    (format !== 1 && format !== 3) ||
    ![1, 2, 3, 4, 8].includes(bytesPerSample) ||
    channels < 1 ||
    channels > 1024 ||
    sampleRate < 1
  )
    fail(
      'wav.format',
      `Sound of kind ${format} with ${channels} channels of ${bits} bits at ${sampleRate} Hz is not known here.`,
      name,
      'Ask for linear PCM.',
    )
  if (blockAlign !== 0 && blockAlign !== bytesPerSample * channels)
    fail(
      'wav.format',
      `Its samples of ${bits} bits stand ${blockAlign} bytes apart in ${channels} channels, which is not read here.`,
      name,
      'Ask for linear PCM without gaps between its samples.',
    )
  const kind = format === 3 ? 'float' : bits <= 8 ? 'uint' : 'int'
  const bitDepth = valid > 0 && valid <= bytesPerSample * 8 ? valid : bits
  return { pcm: { bytesPerSample, kind, littleEndian: true, channels }, sampleRate, bitDepth, layout }
}

/** Opens a WAV, RF64 or BW64 file (RIFF/WAVE; EBU Tech 3306; EBU Tech 3285 for `bext`). */
export async function openWav(source: ByteSource): Promise<Media> {
  const form = new Reader(await source.read(0, 12), source.name).tag()
  const chunks = new Chunks(source)
  await chunks.read()
  const { fmt, data, bext, problems } = chunks
  if (!fmt || fmt.left < 16)
    fail(
      'wav.no-format',
      'The file does not say what kind of sound it holds (no format chunk).',
      source.name,
      'The file is damaged; copy it again from where it came from.',
    )
  if (!data)
    fail(
      'wav.no-sound',
      'The file ends before its sound (no data chunk).',
      source.name,
      'The recording or the copy was not finished. Copy it again.',
    )
  const { pcm, sampleRate, bitDepth, layout } = readFormat(fmt, source.name)
  const frameBytes = pcm.bytesPerSample * pcm.channels
  const samples = Math.floor(data.size / frameBytes)
  const track: AudioTrack = {
    info: { codec: 'pcm', channels: pcm.channels, sampleRate, bitDepth, samples, layout, webCodec: null },
    start: 0,
    pcm,
    packetCount: 0,
    configuration: null,
    native: null,
    packet: () => fail('internal.error', 'PCM sound has no packets.', source.name),
    run: (s) => ({ offset: data.offset + s * frameBytes, samples: samples - s }),
  }
  return {
    source,
    video: [],
    audio: [track],
    info: {
      container: form === 'RIFF' ? 'wav' : 'rf64',
      indexAt: 'front',
      size: source.size,
      durationFrames: null,
      durationSeconds: samples / sampleRate,
      timecode: null,
      video: [],
      audio: [track.info],
      data: [],
      bext,
      problems,
      chapters: [...chunks.cues]
        .map(([id, at]) => ({ at, timescale: sampleRate, name: chunks.labels.get(id) ?? '' }))
        .sort((a, b) => a.at - b.at),
    },
  }
}
