import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { encodeV210 } from '../../core/codec/v210/v210'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import type { MediaInfo } from '../../core/media/media'
import { peakSignalToNoise, likenessOf } from '../../core/picture/likeness'
import { fieldsOf } from '../../core/picture/fields'
import { emptyPicture, type Picture } from '../../core/picture/picture'
import { fitPicture } from '../../core/picture/scale'
import type { Recipe } from '../../core/recipe/recipe'
import { makeRate } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import { plainMov } from '../../tests/plainmov'
import { deliver, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import { machineCodecs } from './codecs'
import { measureFile } from './measurefile'

// Masters of MPEG-2 from the timeline to the proven file.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
const range = { in: 47, out: 52 }

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

interface Made {
  readonly info: MediaInfo
  readonly pictures: Picture[]
  readonly sound: Float32Array[]
}

async function read(file: string, from: number, to: number): Promise<Made> {
  const source = await openFile(path.join(storage, file))
  const media = await openMedia(source)
  const pictures: Picture[] = []
  for await (const { picture } of openPictures(media, machineCodecs()).read({ in: from, out: to }))
    pictures.push(picture)
  const at = (frame: number) => sampleAtFrame(frame, makeRate(25), 48000)
  const sound = await openSound(media, machineCodecs())!.read(at(from), at(to) - at(from))
  await source.close()
  return { info: media.info, pictures, sound }
}

/** Makes the region by a recipe, proven by the night, and reads it back. */
async function made(by: Recipe): Promise<Made> {
  const { state, verdict, problem, path: at } = await deliver(engine, { name: by.kind, file: 'reel.mov', range, by })
  expect([state, verdict, problem]).toEqual(['done', 'pass', null])
  return read(at, 0, range.out - range.in)
}

const same = (a: readonly Float32Array[], b: readonly Float32Array[]) =>
  a.map((c, k) => c.length === b[k]!.length && c.every((v, i) => v === b[k]![i]))

const ratio = (a: Picture, b: Picture) => peakSignalToNoise(likenessOf(a, b).errors[0]) ?? Infinity

describe('masters of MPEG-2', () => {
  it('of high definition are made, read back and proven, picture by picture and sample by sample', async () => {
    const { info, pictures, sound } = await made(recipe('mpeg2', { width: 1280, height: 720, scan: 'source' }))
    expect(info).toMatchObject({ container: 'mxf', durationFrames: 5, problems: [], structure: { pattern: 'OP1a' } })
    expect(info.timecode?.start).toBe('10:01:00:22')
    expect(info.video[0]).toMatchObject({
      ...{ codec: 'mpeg2', profile: '4:2:2', level: 'High', width: 1280, height: 720, scan: 'progressive' },
      ...{ chroma: '4:2:2', bitDepth: 8, intra: true, pixelAspect: '1:1' },
    })
    const own = await read('reel.mov', range.in, range.out)
    const fitted = own.pictures.map((p) => fitPicture(p, { width: 1280, height: 720, fit: 'letterbox' }))
    for (const [i, p] of pictures.entries()) expect(ratio(fitted[i]!, p)).toBeGreaterThan(40)
    expect(info.audio.map((a) => a.channels)).toEqual([1, 1])
    expect(same(sound, own.sound)).toEqual([true, true])
  })

  it('of D-10 are wide pictures of 625 lines, their sound in one element of eight channels', async () => {
    const { info, pictures, sound } = await made(recipe('d10', { channels: [2, 2], colour: 'source' }))
    expect(info).toMatchObject({ container: 'mxf', durationFrames: 5, problems: [] })
    expect(info.timecode?.start).toBe('10:01:00:22')
    expect(info.video[0]).toMatchObject({
      ...{ codec: 'mpeg2', level: 'Main', width: 720, height: 576, scan: 'segmented', pixelAspect: '64:45' },
    })
    const own = await read('reel.mov', range.in, range.out)
    // what is 16:9 there fills what is 16:9 here
    const fit = { width: 720, height: 576, fit: 'letterbox', aspect: 45 / 64 } as const
    for (const [i, p] of pictures.entries()) expect(ratio(fitPicture(own.pictures[i]!, fit), p)).toBeGreaterThan(40)
    expect(info.audio.map((a) => [a.channels, a.bitDepth])).toEqual([[2, 24]])
    expect(same(sound, [own.sound[1]!, own.sound[1]!])).toEqual([true, true])
  })

  it.each([
    [
      'of D-10',
      recipe('d10', { colour: 'bt601-625' }),
      720,
      [
        [162, 44, 142],
        [131, 156, 44],
        [112, 72, 58],
      ],
    ],
    [
      'of high definition',
      recipe('mpeg2', { width: 1280, height: 720, scan: 'source' }),
      1280,
      [
        [169, 44, 136],
        [145, 147, 44],
        [134, 63, 52],
      ],
    ],
  ])(
    '%s have line-up of their colour in front, bars, clock and tone',
    async (_, kind, width, codes) => {
      const by = { ...kind, ...{ channels: [1], lineUp: -18 as const, start: '10:00:00:00' } }
      const done = await deliver(engine, { name: `lined-${width}`, file: 'reel.mov', range, by })
      expect([done.state, done.verdict, done.problem]).toEqual(['done', 'pass', null])
      const { info, pictures, sound } = await read(done.path, 0, 3)
      expect(info).toMatchObject({ durationFrames: 755, timecode: { start: '09:59:30:00' } })
      // 75 % yellow, cyan and green in the middle of their bars (ITU-R BT.801, SMPTE RP 219-1)
      const seen = [1, 2, 3].map((k) => {
        const x = Math.round(((k + 0.5) * width) / 8)
        return pictures[1]!.planes.map((c, i) => c[100 * (i ? width / 2 : width) + (i ? x >> 1 : x)]!)
      })
      seen.flat().forEach((v, i) => expect(Math.abs(v - codes.flat()[i]!)).toBeLessThanOrEqual(1))
      expect(20 * Math.log10(sound[0]!.reduce((m, v) => Math.max(m, Math.abs(v)), 0))).toBeCloseTo(-18, 1)
    },
    120_000,
  )

  it('of D-10 have the upper field first, though the source has the lower', async () => {
    // the lower field, which comes first, is bright, and the upper dark
    const { head, step } = plainMov(720, 576, 5, 90_000, 'interlaced-bff')
    const p = emptyPicture(720, 576, '4:2:2', 10)
    p.planes[0].forEach((_, i) => (p.planes[0][i] = Math.floor(i / 720) % 2 ? 700 : 200))
    for (const c of [1, 2] as const) p.planes[c].fill(512)
    const bytes = new Uint8Array(step)
    bytes.set(encodeV210(p))
    writeFileSync(path.join(storage, 'fields.mov'), Buffer.concat([head, ...Array.from({ length: 5 }, () => bytes)]))
    const by = recipe('d10', { channels: 'all', colour: 'source', scan: 'interlaced-tff' })
    const done = await deliver(engine, { name: 'turned', file: 'fields.mov', range: { in: 0, out: 5 }, by })
    expect([done.state, done.verdict, done.problem]).toEqual(['done', 'pass', null])
    const { info, pictures } = await read(done.path, 0, 5)
    expect(info.video[0]!.scan).toBe('interlaced-tff')
    const middle = fieldsOf(pictures[2]!).map((f) => f.planes[0][144 * 720 + 360]! << (10 - f.bitDepth))
    expect(middle).toEqual([700, 200])
  })
})

it('their timecodes are followed wherever they stand, and a frame that tells another is found', async () => {
  const by = recipe('d10', { channels: [1], colour: 'source', start: '10:00:00:00' })
  const { path: at } = await deliver(engine, { name: 'counted', file: 'reel.mov', range, by })
  const file = path.join(storage, at)
  const breaks = async () => (await measureFile(file, at))['timecode-breaks']!
  expect(await breaks()).toMatchObject({
    value: 0,
    text: 'none in the timecode track; none in system items, in 5 frames; none in the pictures, in 5 frames',
  })
  const bytes = readFileSync(file)
  // frames of the third system item: behind key and length the stamp is at 40, its frames one byte on
  const pack = '060e2b34020501010d01030104010100'
  let item = -1
  for (let n = 0; n < 3; n++) item = bytes.indexOf(Buffer.from(pack, 'hex'), item + 1)
  const length = bytes[item + 16]! & 0x80 ? 1 + (bytes[item + 16]! & 0x7f) : 1
  bytes[item + 16 + length + 41]! += 1
  // and minutes of the first group of pictures: hours and four bits of minutes are in its first bytes
  bytes[bytes.indexOf(Buffer.from('000001b8', 'hex')) + 5]! ^= 0x10
  writeFileSync(file, bytes)
  const { value, text } = await breaks()
  expect([value, text.split('; ')]).toEqual([
    3,
    [
      'none in the timecode track',
      '2 breaks in system items, first at 10:00:00:02',
      expect.stringMatching(/^1 break in the pictures, first at 10:00:00:01, and begins at 10:\d\d:00:00$/),
    ],
  ])
})
