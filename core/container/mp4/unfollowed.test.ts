import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, Reader, Writer } from '../../bytes'
import type { MediaInfo } from '../../media/media'
import { presentationTexts } from '../../media/presentation'
import { describedMedia } from '../../measure/described'
import { measureOf } from '../../measure/registry'
import { openMedia } from '../registry'
import { innerBoxes } from './boxes'
import { box, fullBox } from './boxwriter'
import { pcm24Entry, pictureEntry } from './entrywriter'
import type { WrapTrack } from './movie'
import { movieHead } from './write'

// What an index has players do that is not done here: it is said, or what is read is called not whole.

const shape = {
  ...{ width: 48, height: 32, pixelAspect: '1:1', colour: null, scan: 'progressive' as const },
  configuration: null,
}
const entryOf = (...more: Uint8Array[]) => {
  const own = pictureEntry('v210', shape, null, 'mov')
  return box('v210', own.subarray(8), ...more)
}
const pictures = (changes: Partial<WrapTrack> = {}): WrapTrack => ({
  ...{ kind: 'video', timescale: 25, width: 48, height: 32, sampleEntry: entryOf() },
  ...{ sizes: { constant: 4096, count: 4 }, durations: { constant: 1 } },
  chunks: [
    { offset: 0, samples: 2 },
    { offset: 8192, samples: 2 },
  ],
  ...changes,
})
const sound: WrapTrack = {
  ...{ kind: 'audio', timescale: 48000, sampleEntry: pcm24Entry(1, 48000, null) },
  ...{ sizes: { constant: 3, count: 7680 }, durations: { constant: 1 }, chunks: [{ offset: 16384, samples: 7680 }] },
}

/** A file of tracks, its bytes changed at places that are found by a box's name; `nth` of that name. */
type Change = readonly [name: string, nth: number, at: number, bytes: Uint8Array]
async function infoOf(tracks: readonly WrapTrack[], ...changes: readonly Change[]): Promise<MediaInfo> {
  const dataSize = 16384 + 7680 * 3
  const bytes = concatBytes([movieHead({ brand: 'mov', tracks, dataSize }), new Uint8Array(dataSize)])
  const text = Buffer.from(bytes).toString('latin1')
  for (const [name, nth, at, change] of changes) {
    let found = -1
    for (let i = 0; i <= nth; i++) found = text.indexOf(name, found + 1)
    bytes.set(change, found + 4 + at)
  }
  return (await openMedia(memorySource(bytes, 'a.mov'))).info
}
const said = (info: MediaInfo) => info.problems.map((p) => p.message).join(' ')
const verdict = (info: MediaInfo) => measureOf('presentation').read({ described: describedMedia(info, null) })!
const words = (...values: number[]) => values.reduce((w, v) => w.i32(v), new Writer()).bytes()
const matrix = (a: number, b: number, c: number, d: number) =>
  words(...[a, b, 0, c, d, 0, 0, 0].map((v) => v * 65536), 0x40000000)

/** Where the payload of a version 1 `tkhd` has its flags, its matrix and its size. */
const [flags, placed, size] = [1, 52, 88]

describe('what players do to the pictures of a MOV', () => {
  it('is nothing in one of ours', async () => {
    const info = await infoOf([pictures(), sound])
    expect([info.problems, info.video[0]!.presentation]).toEqual([[], undefined])
    expect(verdict(info)).toMatchObject({ value: 'as coded' })
  })
  it.each([
    ['turns them', [['tkhd', 0, placed, matrix(0, 1, -1, 0)]], 'turned by 90° clockwise'],
    ['turns the movie', [['mvhd', 0, 48, matrix(-1, 0, 0, -1)]], 'turned by 180° clockwise'],
    ['mirrors them', [['tkhd', 0, placed, matrix(-1, 0, 0, 1)]], 'left for right'],
    ['shows another shape', [['tkhd', 0, size, words(64 << 16, 32 << 16)]], '2.00 times as wide as high'],
    ['switches them off', [['tkhd', 0, flags, Uint8Array.of(0, 0, 2)]], 'switched off'],
  ] as const)('is said where it %s, and fails the rule', async (_, changes, text) => {
    const info = await infoOf([pictures(), sound], ...changes)
    expect(said(info)).toContain(text)
    expect(verdict(info)).toMatchObject({ value: 'otherwise', text: expect.stringContaining(text) as unknown })
  })
  it.each([
    [[40, 32], ['only 40×32 of each'], 'otherwise'],
    [[47, 32], [], 'as coded'],
    [[48, 32], [], 'as coded'],
  ] as const)('is a clean aperture of %o', async ([w, h], texts, value) => {
    const info = await infoOf([pictures({ sampleEntry: entryOf(box('clap', words(w, 1, h, 1, 0, 1, 0, 1))) }), sound])
    expect(presentationTexts(info.video[0]!)).toEqual(texts)
    expect(verdict(info).value).toBe(value)
  })
  it('takes pictures that are shown before those that are not, and says that there are more', async () => {
    const other = entryOf(box('clap', words(24, 1, 32, 1, 0, 1, 0, 1)))
    const tracks = [pictures(), pictures({ sampleEntry: other }), sound]
    const info = await infoOf(tracks, ['tkhd', 0, flags, Uint8Array.of(0, 0, 2)])
    expect(info.video.map((v) => v.presentation)).toEqual([{ part: { width: 24, height: 32 } }, { off: true }])
    expect(said(info)).toContain('It has 2 tracks of pictures')
    expect(verdict(await infoOf([pictures(), pictures(), sound]))).toMatchObject({ value: 'otherwise' })
  })
  it('says which sound is switched off, and counts it all the same', async () => {
    const info = await infoOf([pictures(), sound, sound], ['tkhd', 2, flags, Uint8Array.of(0, 0, 2)])
    expect(said(info)).toContain('track 2 switched off')
    expect(measureOf('sound-tracks').read({ described: describedMedia(info, null) })).toEqual({
      ...{ value: 2, text: '2 tracks, track 2 switched off' },
    })
  })
  it('leaves four channels unread where nothing else tells of them', async () => {
    const deep = box('abcd', entryOf().subarray(8))
    new DataView(deep.buffer).setUint16(8 + 74, 32)
    expect((await infoOf([pictures({ sampleEntry: deep })])).video[0]).toMatchObject({ codec: 'abcd', alpha: true })
  })
})

/** Boxes that only hold others, on the way to what is changed. */
const holders = new Set(['moov', 'trak', 'mdia', 'minf', 'stbl'])

/** A file with boxes of its tracks replaced; the media data that it points to moves by as much as it grows. */
async function changed(tracks: readonly WrapTrack[], instead: (name: string, track: number) => Uint8Array | null) {
  const dataSize = 16384 + 7680 * 3
  const made = movieHead({ brand: 'mov', tracks, dataSize })
  let track = -1
  const rebuilt = (bytes: Uint8Array, by: number): Uint8Array => {
    const out: Uint8Array[] = []
    for (const { type, data, whole } of innerBoxes(new Reader(bytes))) {
      if (type === 'trak') track++
      const other = instead(type, track)
      if (holders.has(type)) out.push(box(type, rebuilt(data.bytes, by)))
      else if (type === 'stco' && by) {
        const moved = whole.slice()
        const view = new DataView(moved.buffer)
        for (let at = 16; at < moved.length; at += 4) view.setUint32(at, view.getUint32(at) + by)
        out.push(moved)
      } else out.push(other ?? whole)
    }
    return concatBytes(out)
  }
  const head = made.subarray(0, made.length - 16)
  const grown = rebuilt(head, 0).length - head.length
  track = -1
  const bytes = concatBytes([rebuilt(head, grown), made.subarray(made.length - 16), new Uint8Array(dataSize)])
  return (await openMedia(memorySource(bytes, 'a.mov'))).info
}

describe('what an index asks that is not followed', () => {
  const damage = (info: MediaInfo) => info.problems.filter((p) => p.damage).map((p) => p.message)
  const edited = (of: number, ...edits: [duration: number, at: number, speed: number][]) => {
    const list = edits.reduce(
      (w, [d, at, v]) =>
        w
          .u32(d)
          .i32(at)
          .i32(v * 65536),
      new Writer().u32(edits.length),
    )
    const edts = box('edts', fullBox('elst', 0, 0, list.bytes()))
    return changed([pictures(), sound], (name, track) => (name === 'edts' && track === of ? edts : null))
  }
  it('is speed, gaps, and sound in pieces', async () => {
    expect(damage(await edited(0, [7680, 0, 2]))).toEqual([expect.stringContaining('at another speed')])
    expect(damage(await edited(0, [1920, 0, 1], [1920, -1, 1], [5760, 1, 1]))).toEqual([
      expect.stringContaining('interrupted by gaps'),
    ])
    expect(damage(await edited(1, [2400, 0, 1], [2400, 4800, 1]))).toEqual([
      expect.stringMatching(/sound of track 2 .* in 2 pieces/),
    ])
    expect(damage(await edited(0, [1920, -1, 1], [7680, 0, 1]))).toEqual([])
  })
  it('is essence in another file, which is left out', async () => {
    const away = box('dinf', fullBox('dref', 0, 0, new Writer().u32(1).bytes(), fullBox('url ', 0, 0)))
    const info = await changed([pictures(), sound], (name, track) => (name === 'dinf' && track === 0 ? away : null))
    expect([info.video.length, info.audio.length]).toEqual([0, 1])
    expect(damage(info)).toEqual([expect.stringContaining('it stands in another file')])
  })
  it('is another description of some of them, unless it says the same or is of none', async () => {
    const other = entryOf(box('clap', words(24, 1, 32, 1, 0, 1, 0, 1)))
    const of = (second: Uint8Array, used: number) => {
      const stsd = fullBox('stsd', 0, 0, new Writer().u32(2).bytes(), entryOf(), second)
      const stsc = fullBox('stsc', 0, 0, words(2, 1, 2, 1, 2, 2, used))
      return changed([pictures()], (name) => (name === 'stsd' ? stsd : name === 'stsc' ? stsc : null))
    }
    expect(damage(await of(other, 2))).toEqual([expect.stringContaining('described anew')])
    expect(damage(await of(entryOf(), 2))).toEqual([])
    expect(damage(await of(other, 1))).toEqual([])
  })
})
