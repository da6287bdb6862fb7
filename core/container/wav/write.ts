import { Writer } from '../../bytes'
import type { BextInfo } from '../../media/media'
import type { Samples } from '../../time/rate'
import { layoutMask } from './speakers'

/** Loudness figures of `bext` version 2 (EBU Tech 3285): LUFS, LU, dBTP; null is written as 7FFF. */
export interface BextLoudness {
  readonly integrated: number | null
  readonly range: number | null
  readonly truePeak: number | null
  readonly momentaryMax: number | null
  readonly shortTermMax: number | null
}

export interface WavHead {
  readonly channels: number
  /** What they are; as their count says when absent, nothing when null. */
  readonly layout?: string | null
  readonly sampleRate: number
  readonly bitDepth: 24 | 16
  readonly samples: Samples
  /** Named places, in samples from the first. */
  readonly cues?: readonly { readonly at: Samples; readonly name: string }[]
  readonly bext: Omit<BextInfo, 'version' | 'loudness'> & {
    readonly loudness: BextLoudness | null
    readonly history: string
  }
}

/**
 * The head of a broadcast wave file up to the first sample: RIFF, or RF64 with `ds64` when larger than 4 GiB
 * (EBU Tech 3306), `bext` version 2 (EBU Tech 3285) and `fmt `. Its length does not depend on the loudness figures,
 * so it can be written once more when they are known. A pad byte follows the samples when their bytes are odd in
 * number.
 */
export function wavHead(h: WavHead): Uint8Array {
  const frame = (h.channels * h.bitDepth) / 8
  const dataSize = h.samples * frame
  const history = new TextEncoder().encode(h.bext.history)
  const historySize = history.length + (history.length & 1)
  const extensible = h.channels > 2
  const fmtSize = extensible ? 40 : 16
  const bextSize = 602 + historySize
  const cues = cueChunks(h.cues ?? [])
  const headSize = 12 + 36 + 8 + bextSize + 8 + fmtSize + cues.length + 8
  const riffSize = headSize - 8 + dataSize + (dataSize & 1)
  const big = riffSize > 0xffffffff
  const w = new Writer()
    .tag(big ? 'RF64' : 'RIFF')
    .u32le(big ? 0xffffffff : riffSize)
    .tag('WAVE')
  w.tag(big ? 'ds64' : 'JUNK')
    .u32le(28)
    .u64le(big ? riffSize : 0)
    .u64le(big ? dataSize : 0)
    .u64le(big ? h.samples : 0)
    .u32le(0)
  const b = h.bext
  w.tag('bext')
    .u32le(bextSize)
    .text(b.description, 256)
    .text(b.originator, 32)
    .text(b.originatorReference, 32)
    .text(b.date, 10)
    .text(b.time, 8)
    .u64le(b.timeReference)
    .u16le(2)
    .zero(64)
  const figure = (v: number | null | undefined) =>
    w.i16le(
      v === null || v === undefined || !Number.isFinite(v)
        ? 0x7fff
        : Math.max(-32768, Math.min(32767, Math.round(v * 100))),
    )
  const l = b.loudness
  figure(l?.integrated)
  figure(l?.range)
  figure(l?.truePeak)
  figure(l?.momentaryMax)
  figure(l?.shortTermMax)
  w.zero(180)
    .raw(history)
    .zero(historySize - history.length)
  w.tag('fmt ')
    .u32le(fmtSize)
    .u16le(extensible ? 0xfffe : 1)
    .u16le(h.channels)
    .u32le(h.sampleRate)
    .u32le(h.sampleRate * frame)
    .u16le(frame)
    .u16le(h.bitDepth)
  if (extensible)
    w.u16le(22)
      .u16le(h.bitDepth)
      .u32le(layoutMask(h.channels, h.layout))
      .u16le(1)
      .raw(Uint8Array.from([0, 0, 0, 0, 16, 0, 128, 0, 0, 170, 0, 56, 155, 113]))
  w.raw(cues)
  w.tag('data').u32le(big ? 0xffffffff : dataSize)
  return w.bytes()
}

/** `cue ` and the `labl` names of its points (RIFF, Multimedia Programming Interface 1.0); nothing without points. */
function cueChunks(cues: readonly { readonly at: Samples; readonly name: string }[]): Uint8Array {
  if (cues.length === 0) return new Uint8Array(0)
  const w = new Writer()
    .tag('cue ')
    .u32le(4 + cues.length * 24)
    .u32le(cues.length)
  cues.forEach((c, i) =>
    w
      .u32le(i + 1)
      .u32le(c.at)
      .tag('data')
      .u32le(0)
      .u32le(0)
      .u32le(c.at),
  )
  const labels = new Writer().tag('adtl')
  cues.forEach((c, i) => {
    const text = new TextEncoder().encode(c.name)
    const size = 4 + text.length + 1
    labels
      .tag('labl')
      .u32le(size)
      .u32le(i + 1)
      .raw(text)
      .u8(0)
    if (size & 1) labels.u8(0)
  })
  const body = labels.bytes()
  return w.tag('LIST').u32le(body.length).raw(body).bytes()
}
