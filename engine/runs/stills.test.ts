import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { filesOf } from '../../core/files/fileset'
import { pictureOfRgb } from '../../core/picture/rgb'
import { stillFormatOf } from '../../core/stills/registry'
import { drawFrame, readCounter } from '../../demo/reel'
import {
  deliverables,
  drain,
  latestRun,
  outlet,
  recipe,
  scratchFolder,
  smallReel,
  testEngine,
} from '../../tests/fixtures'
import type { Session } from '../session'
import { isAsProven } from '../storage/delivered'
import { moveFolderUnlessTaken } from '../storage/exclusive'
import { mediaBelow } from '../storage/mediabelow'
import { openMediaFile } from '../storage/mediafile'
import { stillLibrary } from '../storage/stilllibrary'
import { measureFile } from '../worker/measurefile'
import { pictureDifference, toChroma422, toDepth } from '../../core/picture/picture'

// Stills out of a night: sequences in folders of their own, and one frame of a region.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')
let engine: Session
let plan: Awaited<ReturnType<typeof smallReel>>
let timeline = ''

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  plan = await smallReel(path.join(storage, 'reel.mov'), { bitrate: 6_000_000 })
  engine = await testEngine(folder)
  timeline = (await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })).id
  const regions = [
    { id: 'a', name: 'Bell', in: 52, out: 82, metadata: {} },
    { id: 'b', name: 'Gulls', in: 92, out: 100, metadata: {} },
  ]
  await engine.timelines.saveSplit(timeline, { regions, markers: [{ id: 'm', at: 60, name: 'Ring' }] }, 1)
  const going = [
    outlet('dpx', 'storage', recipe('sequence'), { checksums: ['md5', 'sha256'] }),
    outlet(
      'exr',
      'storage',
      recipe('sequence', { stillFormat: 'exr-zip', firstNumber: 1001, digits: 4, separator: '_' }),
    ),
    outlet('tiff', 'storage', recipe('sequence', { stillFormat: 'tiff-16', handles: 3, width: 320, height: 180 })),
    outlet('still', 'storage', recipe('still', { stillAt: 'last' })),
  ]
  for (const o of going) {
    await engine.outlets.save(o)
    const keys = regions.map((r) => ({ timelineId: timeline, regionId: r.id, outletId: o.id }))
    await engine.outlets.choose(keys, true)
  }
  await drain(engine)
})
afterAll(() => engine.close())

/** The numbers drawn into the pictures of a still or a run. */
async function numbersIn(name: string): Promise<(number | null)[]> {
  const opened = await openMediaFile(path.join(storage, name), name)
  const out: (number | null)[] = []
  for await (const { picture } of opened.pictures(null).read({ in: 0, out: opened.info.durationFrames! }))
    out.push(readCounter(toDepth(picture, 8).planes[0], picture.width))
  return out
}
const from = (first: number, count: number) => Array.from({ length: count }, (_, i) => first + i)

describe('a night of stills', () => {
  it('says beforehand what they will be called, and how many there are', async () => {
    const list = await deliverables(engine)
    expect(list.map((d) => d.path)).toEqual([
      'out/dpx/01_Bell/01_Bell.[0901527-0901556].dpx',
      'out/exr/01_Bell/01_Bell_[1001-1030].exr',
      'out/tiff/01_Bell/01_Bell.[0901524-0901559].tif',
      'out/still/01_Bell.png',
      'out/dpx/02_Gulls/02_Gulls.[0901567-0901574].dpx',
      'out/exr/02_Gulls/02_Gulls_[1001-1008].exr',
      'out/tiff/02_Gulls/02_Gulls.[0901564-0901577].tif',
      'out/still/02_Gulls.png',
    ])
    expect(list.every((d) => d.cleared)).toBe(true)
    expect(list.map((d) => d.output.frames)).toEqual([30, 30, 36, 1, 8, 8, 14, 1])
    expect(list[3]!.output.start.label).toBe('10:01:02:06')
  })

  it('writes every one of them, whole, with its number, and nothing else', async () => {
    await engine.nights.start('stills', 2)
    await drain(engine)
    const run = await latestRun(engine)
    expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(8).fill(['done', '']))
    expect(await numbersIn('out/dpx/01_Bell/01_Bell.[0901527-0901556].dpx')).toEqual(from(52, 30))
    expect(await numbersIn('out/exr/02_Gulls/02_Gulls_[1001-1008].exr')).toEqual(from(92, 8))
    expect(await numbersIn('out/still/01_Bell.png')).toEqual([81])
    const bell = readdirSync(path.join(storage, 'out/dpx/01_Bell'))
    expect(bell).toHaveLength(32)
    expect(bell).toEqual(expect.arrayContaining(['01_Bell.md5', '01_Bell.sha256']))
    expect(readdirSync(path.join(storage, 'out/tiff/02_Gulls'))).toHaveLength(15)
    expect(readdirSync(path.join(storage, 'out/still')).filter((n) => n.endsWith('.png'))).toEqual([
      ...['01_Bell.png', '02_Gulls.png'],
    ])
    // chapters stand beside the folder; the frame of one is not in the other's still
    expect(existsSync(path.join(storage, 'out/dpx/01_Bell.chapters.vtt'))).toBe(true)
    expect(existsSync(path.join(storage, 'out/still/01_Bell.chapters.vtt'))).toBe(false)
    expect(existsSync(path.join(storage, '.velvet-scratch'))).toBe(false)
  })

  it('leaves lists of sums that other tools check, of the kinds an outlet is sent', () => {
    const handed = (at: string, kind: string) =>
      readdirSync(path.join(storage, at)).find((n) => n.startsWith('handover-') && n.endsWith(`.${kind}`))!
    for (const [at, list] of [
      ['out/dpx/01_Bell', '01_Bell.sha256'],
      ['out/dpx/01_Bell', '01_Bell.md5'],
      ...['sha256', 'md5'].map((kind) => ['out/dpx', handed('out/dpx', kind)]),
      ['out/still', handed('out/still', 'sha256')],
    ] as [string, string][])
      expect(
        execFileSync(list.endsWith('.md5') ? 'md5sum' : 'sha256sum', ['-c', '--quiet', list], {
          ...{ cwd: path.join(storage, at), encoding: 'utf8' },
        }),
      ).toBe('')
    expect(readdirSync(path.join(storage, 'out/still')).filter((n) => n.endsWith('.md5'))).toEqual([])
    const sums = readFileSync(path.join(storage, 'out/dpx/01_Bell/01_Bell.sha256'), 'utf8')
    expect(sums.split('\n')).toHaveLength(31)
  })

  it('keeps each picture’s place: timecode, numbers and colour of what was drawn', async () => {
    const files = filesOf(path.join(storage, 'out/dpx/01_Bell/01_Bell.[0901527-0901556].dpx'))!
    for (const n of [0, 29]) {
      const { head, picture } = await stillFormatOf('x.dpx')!.read(readFileSync(files[n]!), 'x.dpx', stillLibrary)
      expect(head).toMatchObject({ timecode: [10, 1, 1 + Math.floor((2 + n) / 25), (2 + n) % 25], bitDepth: 10 })
      const drawn = toDepth(toChroma422(drawFrame(plan, 52 + n)), 10)
      // the source is H.264: what it made of the drawing is all that may differ
      expect(pictureDifference(pictureOfRgb(picture, 10), drawn)).toBeLessThan(8)
    }
  })

  it('shows in Handover the run as one file of so many bytes', async () => {
    const [newest] = (await engine.handover.list()).filter((h) => h.path.endsWith('01_Bell.[0901527-0901556].dpx'))
    const { proof } = (await engine.handover.one(newest!.id))!
    expect(proof.info).toMatchObject({ container: 'stills', durationFrames: 30 })
    expect(newest!.bytes).toBe(30 * (2048 + 640 * 360 * 4))
    expect(proof).toMatchObject({ decoded: 30, verdict: 'pass' })
    expect(proof.files.map((f) => f.role)).toEqual(['main', 'chapters', 'chapters'])
    const report = readdirSync(path.join(storage, 'out/still')).find((n) => /^handover.*\.json$/.test(n))!
    const { files } = JSON.parse(readFileSync(path.join(storage, 'out/still', report), 'utf8')) as {
      files: { frames: number }[]
    }
    expect(files.map((f) => f.frames)).toEqual([1, 1])
  })

  it('is not made again while it is there, and again when a frame of its ends is gone', async () => {
    const before = await engine.deliverables.delivery()
    expect(before.size).toBe(8)
    rmSync(path.join(storage, 'out/dpx/02_Gulls/02_Gulls.0901574.dpx'))
    expect((await engine.deliverables.delivery()).size).toBe(7)
    await engine.nights.start('again', 2)
    await drain(engine)
    const run = await latestRun(engine)
    // the folder is still there: the next one has a version, the files in it their names
    expect(run.items.map((i) => [i.state, i.path])).toEqual([
      ['done', 'out/dpx/02_Gulls_v02/02_Gulls_v02.[0901567-0901574].dpx'],
    ])
    expect(await numbersIn(run.items[0]!.path)).toEqual(from(92, 8))
  })
})

describe('stills as files from elsewhere', () => {
  it('are no run that is whole where one of them is of another size or depth', async () => {
    for (const [name, size, depth] of [
      ['size', 33, 'uchar'],
      ['depth', 32, 'ushort'],
    ] as const) {
      const run = path.join(folder, 'odd', name)
      mkdirSync(run, { recursive: true })
      for (let n = 1; n <= 4; n++) {
        const odd = n === 3
        const of = { create: { width: odd ? size : 32, height: 18, channels: 3 as const, background: '#456' } }
        const still = odd && depth === 'ushort' ? sharp(of).toColourspace('rgb16') : sharp(of)
        writeFileSync(path.join(run, `x.000${n}.png`), await still.png().toBuffer())
      }
      const seen = await measureFile(path.join(run, 'x.[0001-0004].png'))
      expect([name, seen.intact!.value, seen.intact!.text]).toEqual([
        name,
        false,
        expect.stringContaining('00:00:00:03'),
      ])
    }
  })
  it('are one each run, found below a folder, and measured as any file is', async () => {
    const top = path.join(storage, 'out')
    const found = (await mediaBelow(top)).filter((n) => n.startsWith('exr') || n.startsWith('still'))
    expect(found).toEqual(['exr/01_Bell/01_Bell_[1001-1030].exr', 'exr/02_Gulls/02_Gulls_[1001-1008].exr'])
    const run = path.join(top, found[0]!)
    expect(await mediaBelow(run)).toEqual([''])
    const seen = await measureFile(run)
    expect(seen).toMatchObject({
      container: { value: 'stills' },
      codec: { value: 'exr' },
      'start-timecode': { value: '10:01:01:02' },
      freeze: { from: 'file' },
    })
    expect(seen.loudness).toEqual({ value: null, text: 'there is no sound', from: 'file' })
    await engine.received.measure({ root: 'storage', path: 'out/exr' })
    await drain(engine)
    const files = await engine.received.list({ root: 'storage', path: 'out/exr' }, 'open')
    expect(files.map((f) => [f.path, f.state, f.verdict])).toEqual(found.map((n) => [`out/${n}`, 'judged', 'pass']))
    const results = await engine.received.results({ root: 'storage', path: files[0]!.path }, 'open')
    expect(results.map((r) => [r.rule.measure, r.verdict])).toEqual([
      ['intact', 'pass'],
      ['presentation', 'pass'],
      ['caption-packets', 'pass'],
      ['channel-order', 'pass'],
      ['stated-loudness', 'pass'],
      ['sound-depth-used', 'pass'],
      ['fields', 'pass'],
      ['cadence', 'pass'],
    ])
  })
})

describe('stills that are not what was asked', () => {
  it('are no longer as proven when one of many is another', async () => {
    const run = path.join(storage, 'out/exr/01_Bell/01_Bell_[1001-1030].exr')
    const one = (await engine.handover.list()).find((h) => run.endsWith(h.path))!
    const { proof } = (await engine.handover.one(one.id))!
    expect(await isAsProven(run, proof.files[0]!.sums)).toBe(true)
    const middle = filesOf(run)![15]!
    const bytes = readFileSync(middle)
    bytes[4000]! ^= 1
    writeFileSync(middle, bytes)
    expect(await isAsProven(run, proof.files[0]!.sums)).toBe(false)
    expect(await isAsProven(run, { sha256: '0'.repeat(64) })).toBe(false)
  })
})

it('moves a folder to a name only where there is none', async () => {
  const at = mkdtempSync(path.join(folder, 'move-'))
  for (const n of ['a', 'b', 'empty']) mkdirSync(path.join(at, n))
  writeFileSync(path.join(at, 'a', 'x'), 'a')
  writeFileSync(path.join(at, 'b', 'x'), 'b')
  expect(await moveFolderUnlessTaken(path.join(at, 'a'), path.join(at, 'b'))).toBe(false)
  expect(await moveFolderUnlessTaken(path.join(at, 'a'), path.join(at, 'empty'))).toBe(false)
  expect(await moveFolderUnlessTaken(path.join(at, 'a'), path.join(at, 'c'))).toBe(true)
  expect(readFileSync(path.join(at, 'c', 'x'), 'utf8')).toBe('a')
  await expect(moveFolderUnlessTaken(path.join(at, 'gone'), path.join(at, 'd'))).rejects.toThrow()
  expect(existsSync(path.join(at, 'd'))).toBe(false)
})
