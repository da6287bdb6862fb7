import { Reader, type ByteSource } from '../../bytes'
import { fail, type Problem } from '../../problem'
import type { AudioTrack, BextInfo, Media, PcmLayout } from '../../media/media'

/** Channel names by WAVEFORMATEXTENSIBLE mask bit. */
const maskNames = ['L', 'R', 'C', 'LFE', 'Ls', 'Rs']

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

/** Opens a WAV, RF64 or BW64 file (RIFF/WAVE; EBU Tech 3306; EBU Tech 3285 for `bext`). */
export async function openWav(source: ByteSource): Promise<Media> {
  const head = new Reader(await source.read(0, 12), source.name)
  const form = head.tag()
  const problems: Problem[] = []
  let dataSize64: number | null = null
  let at = 12
  let fmt: Reader | null = null
  let bext: BextInfo | null = null
  let data: { offset: number; size: number } | null = null
  const cues = new Map<number, number>()
  const labels = new Map<number, string>()
  for (let chunks = 0; at + 8 <= source.size && chunks < 10_000; chunks++) {
    const h = new Reader(await source.read(at, 8), source.name, at)
    const id = h.tag()
    let size = h.u32le()
    const body = at + 8
    if (id === 'ds64') {
      const r = new Reader(await source.read(body, Math.min(size, 28)), source.name, body)
      if (r.left >= 16) {
        r.skip(8)
        dataSize64 = r.u64le()
      }
    } else if (id === 'fmt ') fmt = new Reader(await source.read(body, Math.min(size, 64)), source.name, body)
    else if (id === 'bext') {
      const r = new Reader(await source.read(body, Math.min(size, 700)), source.name, body)
      if (r.left >= 346) bext = readBext(r)
    } else if (id === 'cue ') {
      // places in samples, with names of their own in a LIST of type adtl (RIFF, Multimedia Programming Interface 1.0)
      const r = new Reader(await source.read(body, Math.min(size, 1 << 20)), source.name, body)
      const count = r.left >= 4 ? r.u32le() : 0
      for (let i = 0; i < count && r.left >= 24; i++) {
        const cue = r.u32le()
        r.skip(16)
        cues.set(cue, r.u32le())
      }
    } else if (id === 'LIST') {
      const r = new Reader(await source.read(body, Math.min(size, 1 << 20)), source.name, body)
      if (r.left >= 4 && r.tag() === 'adtl') {
        while (r.left >= 8) {
          const kind = r.tag()
          const length = r.u32le()
          if (length > r.left) break
          const part = r.part(length)
          if (kind === 'labl' && length > 4)
            labels.set(
              part[0]! | (part[1]! << 8) | (part[2]! << 16) | (part[3]! << 24),
              new TextDecoder().decode(part.subarray(4)).replace(/\0[^]*$/, ''),
            )
          if (length & 1 && r.left > 0) r.skip(1)
        }
      }
    } else if (id === 'data') {
      if (size === 0xffffffff && dataSize64 !== null) size = dataSize64
      if (body + size > source.size) {
        problems.push({
          code: 'file.truncated',
          message: `The sound should reach byte ${body + size}, but the file ends at byte ${source.size}.`,
          where: source.name,
          fix: 'Copy the file again from where it came from.',
        })
        size = source.size - body
      }
      data = { offset: body, size }
    }
    at = body + size + (size & 1)
  }
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
  let format = fmt.u16le()
  const channels = fmt.u16le()
  const sampleRate = fmt.u32le()
  fmt.skip(6)
  const bits = fmt.u16le()
  let layout: string | null = null
  if (format === 0xfffe && fmt.left >= 24) {
    fmt.skip(4)
    const mask = fmt.u32le()
    format = fmt.u16le()
    const names = maskNames.filter((_, i) => mask & (1 << i))
    if (names.length === channels) layout = names.join(' ')
  }
  if (
    (format !== 1 && format !== 3) ||
    ![8, 16, 24, 32, 64].includes(bits) ||
    channels < 1 ||
    channels > 1024 ||
    sampleRate < 1
  ) {
    fail(
      'wav.format',
      `Sound of kind ${format} with ${channels} channels of ${bits} bits at ${sampleRate} Hz is not known here.`,
      source.name,
      'Ask for linear PCM.',
    )
  }
  const pcm: PcmLayout = {
    bytesPerSample: bits / 8,
    kind: format === 3 ? 'float' : bits === 8 ? 'uint' : 'int',
    littleEndian: true,
    channels,
  }
  const frameBytes = pcm.bytesPerSample * channels
  const samples = Math.floor(data.size / frameBytes)
  const { offset } = data
  const track: AudioTrack = {
    info: { codec: 'pcm', channels, sampleRate, bitDepth: bits, samples, layout, webCodec: null },
    start: 0,
    pcm,
    packetCount: 0,
    configuration: null,
    native: null,
    packet: () => fail('internal.error', 'PCM sound has no packets.', source.name),
    run: (s) => ({ offset: offset + s * frameBytes, samples: samples - s }),
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
      bext,
      problems,
      chapters: [...cues]
        .map(([id, at]) => ({ at, timescale: sampleRate, name: labels.get(id) ?? '' }))
        .sort((a, b) => a.at - b.at),
    },
  }
}
