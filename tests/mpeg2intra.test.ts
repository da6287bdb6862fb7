import { execFileSync, spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { memorySource } from '../core/bytes'
import { Mpeg2Decoder } from '../core/codec/mpeg2/decode'
import { openSound } from '../core/codec/sound'
import type { PictureShape } from '../core/codec/codec'
import { pictureCodec } from '../core/codec/registry'
import { openMedia } from '../core/container/registry'
import { layUnits } from '../core/container/mxf/write'
import { hex } from '../core/container/mxf/labels'
import { bt709 } from '../core/media/colour'
import type { Colour } from '../core/media/media'
import { noise } from '../core/kernel/noise'
import { emptyPicture, type Picture } from '../core/picture/picture'
import { makeRate } from '../core/time/rate'
import { scratchFolder } from './fixtures'
import { mutate, seeded } from './mutate'

// Intra pictures of MPEG-2 as they are coded here, against what libmpeg2 makes of them; and the D-10 file around them.

const { folder, remove } = scratchFolder()
afterAll(remove)

/** Texture with grain, colours, and fields that are apart; nothing but noise where `hard`. */
function texture({ width, height, scan }: PictureShape, hard: boolean): Picture {
  const p = emptyPicture(width, height, '4:2:2', 8)
  p.planes.forEach((plane, k) => {
    const w = k === 0 ? width : width / 2
    const grain = noise(new Uint8Array(plane.length), hard ? 256 : 20, 7 + k)
    for (let i = 0; i < plane.length; i++) {
      const [x, y] = [i % w, Math.floor(i / w)]
      const t = scan.startsWith('interlaced') ? 11 * (y & 1) : 0
      plane[i] = hard
        ? grain[i]!
        : 110 + 55 * Math.sin((x + t) / 7 + y / 23) + 40 * Math.cos(y / 9 - x / 31) + grain[i]!
    }
  })
  return p
}

async function units(
  shape: PictureShape,
  bitrate: number,
  pictures: readonly Picture[],
  colour: Colour = bt709,
  pixelAspect = '1:1',
): Promise<Uint8Array[]> {
  const encoder = pictureCodec('mpeg2')!.encode!.open({ ...shape, bitrate, colour, pixelAspect }, null)
  for (const p of pictures) await encoder.feed(p)
  return encoder.take().map((u) => u.bytes)
}

/** What ends a sequence: decoders give the last picture out. */
const end = Uint8Array.of(0, 0, 1, 0xb7)

/** The most that frames are apart from what libmpeg2 makes of a stream, in steps of 8 bits. */
function apart(name: string, stream: readonly Uint8Array[]): number[] {
  const out = path.join(folder, name)
  mkdirSync(out)
  writeFileSync(path.join(folder, `${name}.m2v`), Buffer.concat([...stream, end]))
  execFileSync('mpeg2dec', ['-o', 'pgm', path.join(folder, `${name}.m2v`)], { cwd: out, stdio: 'ignore' })
  return stream.map((unit, n) => {
    const { frame } = new Mpeg2Decoder().decode(unit)
    const pgm = readFileSync(path.join(out, `${n}.pgm`))
    const head = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(pgm.subarray(0, 40).toString('latin1'))!
    const [width, lines] = [Number(head[1]), Number(head[2]) / 2]
    expect(width).toBe(frame.width)
    const theirs = pgm.subarray(head[0].length)
    let most = 0
    for (const k of [0, 1, 2]) {
      const w = k === 0 ? width : width / 2
      for (let y = 0; y < lines; y++)
        for (let x = 0; x < w; x++) {
          const at = k === 0 ? y * width + x : (lines + y) * width + (k - 1) * w + x
          most = Math.max(most, Math.abs(theirs[at]! - frame.planes[k]![y * w + x]!))
        }
    }
    return most
  })
}

const d10: PictureShape = { width: 720, height: 576, rate: makeRate(25), scan: 'interlaced-tff' }
const high = (scan: PictureShape['scan']): PictureShape => ({ width: 1920, height: 1080, rate: makeRate(25), scan })

describe.runIf(spawnSync('mpeg2dec', ['--version']).error === undefined)('what is coded here', () => {
  it.each<[string, PictureShape, number]>([
    ['d10', d10, 50e6],
    ['least', d10, 30e6],
    ['upper', high('interlaced-tff'), 100e6],
    ['lower', high('interlaced-bff'), 50e6],
    ['whole', high('progressive'), 200e6],
    ['segmented', high('segmented'), 50e6],
    ['fast', { ...high('progressive'), width: 1280, height: 720, rate: makeRate(60000, 1001) }, 50e6],
  ])('%s: libmpeg2 makes of it what we do', async (name, shape, bitrate) => {
    const stream = await units(shape, bitrate, [texture(shape, false), texture(shape, true)])
    for (const most of apart(name, stream)) expect(most).toBeLessThanOrEqual(1)
  })
})

describe('a D-10 file', () => {
  const bt601: Colour = { primaries: 5, transfer: 6, matrix: 6, fullRange: false }
  const samples = 1920
  const sound = [0, 1, 2].map((k) => Float32Array.from({ length: 3 * samples }, (_, i) => Math.sin(i / (20 + k)) * 0.7))
  const make = async (): Promise<Uint8Array> => {
    const pictures = await units(
      d10,
      50e6,
      [0, 1, 2].map((n) => texture(d10, n === 1)),
      bt601,
      '64:45',
    )
    const made = layUnits('mxf', {
      video: {
        ...{ kind: 'video', codec: 'mpeg2', width: 720, height: 576, pixelAspect: '64:45', scan: 'interlaced-tff' },
        ...{ colour: bt601, configuration: null },
      },
      sound: {
        ...{
          kind: 'audio',
          codec: 'pcm',
          channels: 3,
          sampleRate: 48000,
          layout: null,
          configuration: null,
          bitrate: 0,
        },
      },
      ...{ pictureBytes: 250_000, samplesBefore: (n) => n * samples, frames: 3, rate: makeRate(25), chapters: [] },
      ...{ start: { frames: 25 * 36000 - 1, dropFrame: false }, name: 'Bell', identity: new Uint8Array(16).fill(3) },
    })
    const out = new Uint8Array(made.tail.at + made.tail.bytes.length)
    out.set(made.head)
    out.set(made.tail.bytes, made.tail.at)
    pictures.forEach((p, n) => {
      const part = sound.map((c) => c.subarray(n * samples, (n + 1) * samples))
      for (const { at, bytes } of made.unit(n, p, part)) out.set(bytes, at)
    })
    return out
  }

  it('has a system item, a picture and eight channels in each frame, and is read back as it was', async () => {
    const bytes = await make()
    const media = await openMedia(memorySource(bytes, 'bell.mxf'))
    expect(media.info.problems).toEqual([])
    expect(media.info.video[0]).toMatchObject({ width: 720, height: 576, frames: 3, pixelAspect: '64:45', bitDepth: 8 })
    expect(media.info.video[0]).toMatchObject({
      colour: { primaries: 5, transfer: 6, matrix: 6 },
      scan: 'interlaced-tff',
    })
    expect(media.info.audio).toMatchObject([{ codec: 'pcm', channels: 3, bitDepth: 24, samples: 3 * samples }])
    expect(media.info.timecode?.start).toBe('09:59:59:24')
    const heard = await openSound(media, null)!.read(0, 3 * samples)
    const stepped = (v: number) => Math.floor(v * 8388608 + 0.5) / 8388608
    expect(heard.map((c, k) => c.every((v, i) => v === Math.fround(stepped(sound[k]![i]!))))).toEqual([
      true,
      true,
      true,
    ])
    // the pack of the second frame: what there is, its rate, its number, and 10:00:00:00
    const key = '060e2b34020501010d01030104010100'
    const places: number[] = []
    const all = Buffer.from(bytes.buffer)
    for (let at = all.indexOf(key, 0, 'hex'); at >= 0; at = all.indexOf(key, at + 1, 'hex')) places.push(at)
    expect(places.length).toBe(3)
    const pack = bytes.subarray(places[1]! + 20)
    expect(hex(pack.subarray(0, 7))).toBe('5c040000000001')
    expect(hex(pack.subarray(7, 23))).toBe('060e2b34040101010d01030102010101')
    expect(hex(pack.subarray(40, 45))).toBe('8100000010')
    // and frames are of one size, each on the grid
    expect([(places[2]! - places[1]!) % 512, places[1]! % 512, places[2]! - places[1]!]).toEqual([
      0,
      0,
      places[1]! - places[0]!,
    ])
  })

  it('whose elements hold other numbers of samples than they say is not taken for sound', async () => {
    const bytes = await make()
    const at = Buffer.from(bytes.buffer).indexOf('060e2b34010201010d01030106011000', 0, 'hex')
    bytes[at + 21] = 1
    const { info } = await openMedia(memorySource(bytes, 'bell.mxf'))
    expect(info.audio).toEqual([])
    expect(info.problems.map((p) => p.message)).toEqual([
      'An element of sound says that it has 1793 samples; there is room for 1920.',
    ])
  })

  it('damaged in many places is read or refused, and never ends a process', async () => {
    const bytes = (await make()).slice(0, 200_000)
    const next = seeded(20261127)
    let opened = 0
    for (let k = 0; k < 2000; k++)
      try {
        const { timecodes = [] } = await openMedia(memorySource(mutate(bytes.subarray(0, 12_000), next), 'bell.mxf'))
        opened++
        for (const t of timecodes)
          for await (const { label } of t.walk({ in: 0, out: 9 })) if (label !== null) expect(label).toMatch(/^\d\d:/)
      } catch (e) {
        if ((e as Error).name !== 'ProblemError') throw e
      }
    expect(opened).toBeLessThan(2000)
  })
})
