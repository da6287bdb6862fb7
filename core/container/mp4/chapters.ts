import { concatBytes, Writer } from '../../bytes'
import { box } from './boxwriter'
import type { Movie, WrapTrack } from './movie'

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
