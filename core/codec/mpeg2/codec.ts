import { readExactly } from '../../bytes'
import type { Media, VideoTrack } from '../../media/media'
import { bt709 } from '../../media/colour'
import { emptyPicture, type Picture } from '../../picture/picture'
import { fail } from '../../problem'
import type { FrameRange } from '../../time/range'
import type { Encoder, PictureCodec, PictureEncoderSettings } from '../codec'
import { plainEncoder } from '../plain'
import { StreamFault } from './bits'
import { Mpeg2Decoder, type DecodedFrame } from './decode'
import { describeMpeg2, levelOf, shownLines } from './describe'
import { IntraEncoder } from './encode'
import { formOf, needForm, pictureBytes, writtenPictures } from './forms'
import { groupTimecode, isAlone, kindOf } from './headers'

/** What MXF calls pictures of MPEG-2, without the byte in which registers' versions differ (SMPTE RP 224). */
const coding = '060e2b34040101' + '0401020201'
const hex = (n: number) => n.toString(16).padStart(2, '0')
const codings = [1, 2, 3, 4, 5].flatMap((profile) =>
  [0, 1, 2, 3, 0x10, 0x11].flatMap((kind) =>
    Array.from({ length: 7 }, (_, n) => coding + hex(profile) + hex(kind) + hex(n)),
  ),
)

/** The same in MOV, by kind and rate, and in MP4: objects of simple to 4:2:2 profile (ISO/IEC 14496-1 table 5). */
const movieCodes = [
  ...['m2v1', 'mpg2', ...[3, 4, 5].flatMap((n) => [`mx${n}n`, `mx${n}p`])],
  ...[...'123456789a'].map((n) => `hdv${n}`),
  ...[...'123456789abcdef'].flatMap((n) => [`xdv${n}`, `xd5${n}`]),
  ...Array.from({ length: 6 }, (_, n) => `mp4v.${hex(0x60 + n)}`),
]

/** The picture of a frame: its width and lines, of whole macroblocks. */
function pictureOf({ sequence, frame }: DecodedFrame): Picture {
  const [from, height] = shownLines(sequence)
  const { width } = sequence
  const full = frame.chromaHeight === frame.height
  const out = emptyPicture(width, height, full ? '4:2:2' : '4:2:0', 8)
  const cut = (k: 0 | 1 | 2, stride: number, first: number) => {
    const to = out.planes[k]
    const own = k === 0 ? width : (width + 1) >> 1
    for (let y = 0; y * own < to.length; y++) {
      const at = (first + y) * stride
      to.set(frame.planes[k].subarray(at, at + own), y * own)
    }
  }
  cut(0, frame.width, from)
  cut(1, frame.width / 2, full ? from : from / 2)
  cut(2, frame.width / 2, full ? from : from / 2)
  return out
}

/** Frames that are looked ahead for: pictures that nothing leans on are passed by when they are not asked for. */
const ahead = 64

/** Decodes a track from its nearest sync sample on; what came early is kept until it is shown. */
class Mpeg2Reader {
  private decoder = new Mpeg2Decoder()
  /** The position that was decoded last; −1 at the beginning. */
  private at = -1
  private primed = false
  private readonly early = new Map<number, Picture>()

  constructor(
    private readonly media: Media,
    private readonly track: VideoTrack,
  ) {}

  async *read({ in: from, out }: FrameRange) {
    for (let frame = from; frame < out; frame++) {
      const position = this.track.sampleOfFrame(frame)
      const picture = this.early.get(position) ?? (await this.upTo(position, this.wantedFrom(frame, out)))
      this.early.delete(position)
      yield { frame, picture }
    }
  }

  private wantedFrom(frame: number, out: number): Set<number> {
    const wanted = new Set<number>()
    for (let n = frame; n < Math.min(out, frame + ahead); n++) wanted.add(this.track.sampleOfFrame(n))
    return wanted
  }

  private async upTo(position: number, wanted: ReadonlySet<number>): Promise<Picture> {
    const sync = this.track.syncBefore(position)
    // behind what was decoded already, or further on than the next sync sample: from there
    if (!this.primed) await this.prime()
    if (position <= this.at || sync > this.at + 1 || this.at < 0) this.begin(sync)
    for (let first = sync; ;)
      try {
        return await this.decodeTo(position, wanted)
      } catch (e) {
        // pictures that are shown before their sync sample lean on those of the group before
        if (!(e instanceof StreamFault && e.leans) || first === 0) throw this.said(e)
        first = this.track.syncBefore(first - 1)
        this.begin(first)
      }
  }

  /** The headers of the stream: groups may come without them. */
  private async prime(): Promise<void> {
    const { offset, size } = this.track.sample(0)
    try {
      this.decoder.prime(await readExactly(this.media.source, offset, size))
      this.primed = true
    } catch (e) {
      throw this.said(e)
    }
  }

  private begin(position: number): void {
    this.decoder.reset()
    this.early.clear()
    this.at = position - 1
  }

  private async decodeTo(position: number, wanted: ReadonlySet<number>): Promise<Picture> {
    for (;;) {
      const next = this.at + 1
      const s = this.track.sample(next)
      const unit = await readExactly(this.media.source, s.offset, s.size)
      this.at = next
      if (next !== position && !wanted.has(next) && kindOf(unit) === 'B') continue
      if (this.track.info.intra && kindOf(unit) !== 'I') this.unordered()
      const picture = pictureOf(this.decoder.decode(unit))
      if (next === position) return picture
      if (wanted.has(next)) this.early.set(next, picture)
    }
  }

  private unordered(): never {
    fail(
      'codec.unordered',
      'Its pictures lean on each other, and there is no index that tells their order.',
      this.media.source.name,
      'Ask for the file with its index, or for a rewrap of it.',
    )
  }

  private said(e: unknown): unknown {
    if (!(e instanceof StreamFault)) return e
    const { offset } = this.track.sample(Math.max(0, this.at))
    return fail(
      'media.undecodable',
      `A picture of MPEG-2 cannot be decoded: ${e.message} (bit ${e.bit} behind byte ${offset} of the file).`,
      this.media.source.name,
      'The file is damaged there; copy it again from where it came from.',
    )
  }
}

/** Encodes pictures that stand alone, all of one size. */
function openIntra(settings: PictureEncoderSettings): Encoder<Picture> {
  const { rate, scan = 'progressive', colour = bt709, pixelAspect = '1:1', first = 0 } = settings
  const shape = { ...settings, scan }
  const encoder = new IntraEncoder({
    ...{ form: needForm(shape), bytes: pictureBytes(shape, settings.bitrate), rate, scan, colour, pixelAspect },
    start: settings.start ?? { frames: 0, dropFrame: false },
  })
  let frame = first
  return plainEncoder((picture) => encoder.encode(picture, frame++))
}

/** MPEG-2 in our own code (ITU-T H.262, ISO/IEC 13818-2): 4:2:0 and 4:2:2, of 8 bits, frames and fields. */
export const mpeg2: PictureCodec = {
  name: 'mpeg2',
  label: 'MPEG-2',
  calls: {
    mxf: { entries: codings, written: writtenPictures },
    matroska: { entries: ['V_MPEG2'] },
    mp4: { entries: movieCodes, inStream: true, brands: ['mov'] },
  },
  describe: describeMpeg2,
  isAlone,
  groupTimecode,
  decode: {
    needsWeb: false,
    open: (media, track) => ({
      frames: track.info.frames,
      read: (range) => new Mpeg2Reader(media, track).read(range),
    }),
  },
  encode: {
    needsWeb: false,
    bitDepth: 8,
    as: (shape) => ({ chroma: '4:2:2', profile: '4:2:2', level: levelOf(formOf(shape)?.profileLevel ?? 0) }),
    speed: { make: 16, prove: 14 },
    frameBytes: pictureBytes,
    open: openIntra,
  },
}
