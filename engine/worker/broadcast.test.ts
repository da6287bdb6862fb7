import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import { pictureDifference, toChroma422, type Picture, type Plane } from '../../core/picture/picture'
import { fitPicture } from '../../core/picture/scale'
import type { Recipe } from '../../core/recipe/recipe'
import type { FrameRange } from '../../core/time/range'
import { sampleAtFrame } from '../../core/time/samples'
import { makeRate } from '../../core/time/rate'
import { deliver, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import { machineCodecs } from './codecs'

// A broadcast master from the timeline to the proven file, and from there into a timeline again.

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

/** Delivers a range of a file by a recipe; where it went. */
async function made(name: string, file: string, r: FrameRange, by: Recipe): Promise<string> {
  const { state, verdict, problem, path: at } = await deliver(engine, { name, file, range: r, by })
  expect([state, verdict, problem]).toEqual(['done', 'pass', null])
  return at
}

async function picturesOf(file: string, r: FrameRange): Promise<Picture[]> {
  const source = await openFile(path.join(storage, file))
  const out: Picture[] = []
  for await (const { picture } of openPictures(await openMedia(source), machineCodecs()).read(r)) out.push(picture)
  await source.close()
  return out
}

async function soundOf(file: string, from: number, count: number): Promise<Float32Array[]> {
  const source = await openFile(path.join(storage, file))
  const sound = await openSound(await openMedia(source), machineCodecs())!.read(from, count)
  await source.close()
  return sound
}

/** The access units of a file's pictures. */
async function unitsIn(file: string): Promise<Buffer[]> {
  const source = await openFile(path.join(storage, file))
  const [track] = (await openMedia(source)).video
  const out: Buffer[] = []
  for (let i = 0; i < track!.sampleCount; i++) {
    const { offset, size } = track!.sample(i)
    out.push(Buffer.from(await source.read(offset, size)))
  }
  await source.close()
  return out
}

it.each([
  ['broadcast', 1920],
  ['broadcast-50', 1440],
])(
  'by %s is made, read back and proven: the frames asked for, and every sample of their sound',
  async (kind, width) => {
    const file = await made(`${kind} House`, 'reel.mov', range, recipe(kind))
    const source = await openFile(path.join(storage, file))
    const { info } = await openMedia(source)
    await source.close()
    expect(info).toMatchObject({ container: 'mxf', durationFrames: 5, problems: [] })
    expect(info.video[0]).toMatchObject({
      codec: 'h264-intra',
      scan: 'segmented',
      width,
      height: 1080,
      bitDepth: 10,
    })
    expect(info.timecode?.start).toBe('10:01:00:22')
    const pictures = await picturesOf(file, { in: 0, out: 5 })
    const own = await picturesOf('reel.mov', range)
    for (const [i, picture] of pictures.entries())
      expect(pictureDifference(fitPicture(own[i]!, { width, height: 1080, fit: 'stretch' }), picture)).toBeLessThan(1)
    const at = (frame: number) => sampleAtFrame(frame, makeRate(25), 48000)
    const [written, heard] = [await soundOf(file, 0, at(5)), await soundOf('reel.mov', at(range.in), at(5))]
    expect(written.map((c, k) => c.every((v, i) => v === heard[k]![i]))).toEqual([true, true])

    // brought in again, a part of it becomes an uncompressed master of the very same pictures
    const again = await made(`${kind} Again`, file, { in: 1, out: 4 }, recipe('master'))
    const taken = await picturesOf(again, { in: 0, out: 3 })
    // but for codes that uncompressed video keeps for itself
    const legal = (p: Picture) => toChroma422(p).planes.map((plane) => plane.map((v) => Math.max(4, Math.min(1019, v))))
    const same = (a: readonly Plane[], b: readonly Plane[]) => a.every((p, k) => p.every((v, i) => v === b[k]![i]))
    expect(taken.map((p, n) => same(p.planes, legal(pictures[n + 1]!)))).toEqual([true, true, true])

    // and rewrapped it is the same essence, byte for byte
    const copied = await made(`${kind} Copy`, file, { in: 1, out: 4 }, recipe('rewrap', { container: 'mxf' }))
    const [units, copy] = [await unitsIn(file), await unitsIn(copied)]
    expect(copy.map((u, n) => u.equals(units[n + 1]!))).toEqual([true, true, true])
    const [before, after] = [await soundOf(file, at(1), at(3)), await soundOf(copied, 0, at(3))]
    expect(after.map((c, k) => c.every((v, i) => v === before[k]![i]))).toEqual([true, true])
  },
)
