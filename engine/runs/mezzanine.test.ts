import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { deliver, deliverables, recipe, scratchFolder, testEngine } from '../../tests/fixtures'
import { openSpec } from '../../core/spec/shipped'
import { mezzanine, mezzanineSample } from '../../tests/mezzanine'
import type { Session } from '../session'
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from '../worker/codecs'
import { measureFile } from '../worker/measurefile'

// Films of RDD 36, as edits hand them over: every frame of them in its place, in ten bits.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
const levels = { id: 'levels', measure: 'levels', severity: 'should', expect: { max: 0 }, clause: '1' } as const

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  mezzanine(path.join(storage, 'reel.mov'), 20)
  mezzanine(path.join(storage, 'fields.mov'), 10, { kind: 'apch', fields: 'upper first' })
  mezzanine(path.join(storage, 'keyed.mov'), 10, { kind: 'ap4h', full: true, alpha: Uint8Array.of(0x80, 0) })
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

async function* picturesOf(file: string) {
  const opened = await openMediaFile(file, file)
  const pictures = opened.pictures(machineCodecs())
  yield* pictures.read({ in: 0, out: pictures.frames })
  await opened.close()
}

describe('a film of RDD 36', () => {
  it('says what it is', async () => {
    const said = async (name: string) => {
      const opened = await openMediaFile(path.join(storage, name), name)
      const { info } = opened
      await opened.close()
      return { ...info.video[0]!, timecode: info.timecode!.start }
    }
    expect(await said('reel.mov')).toMatchObject({
      ...{ codec: 'rdd36', profile: '422', width: 320, height: 180, chroma: '4:2:2', bitDepth: 10, intra: true },
      ...{ scan: 'progressive', contradictions: [], timecode: '10:00:00:00' },
    })
    expect(await said('fields.mov')).toMatchObject({ profile: '422 HQ', scan: 'interlaced-tff' })
    expect(await said('keyed.mov')).toMatchObject({ profile: '4444', chroma: '4:4:4', bitDepth: 12, alpha: true })
  })

  it('is made into an uncompressed master in its ten bits, frame by frame', async () => {
    const by = recipe('master')
    const item = await deliver(engine, { name: 'house', file: 'reel.mov', range: { in: 4, out: 16 }, by })
    expect(item.problem).toBeNull()
    const { proof } = (await engine.handover.one(item.id))!
    expect(proof.results.filter((r) => r.verdict === 'fail')).toEqual([])
    for await (const { frame, picture } of picturesOf(path.join(storage, item.path)))
      for (const [x, y] of [
        [0, 0],
        [111, 63],
        [319, 179],
      ] as const)
        expect(Math.abs(picture.planes[0][y * 320 + x]! - mezzanineSample(frame + 4, 0, x, y))).toBeLessThanOrEqual(1)
  })

  it('is rewrapped byte for byte', async () => {
    const by = recipe('rewrap')
    const item = await deliver(engine, { name: 'same', file: 'reel.mov', range: { in: 4, out: 16 }, by })
    expect(item.problem).toBeNull()
    const [from, to] = await Promise.all(
      ['reel.mov', item.path].map(async (name) => {
        const opened = await openMediaFile(path.join(storage, name), name)
        const track = opened.media!.video[0]!
        const { offset, size } = track.sample(track.sampleOfFrame(name === 'reel.mov' ? 4 : 0))
        await opened.close()
        return { unit: readFileSync(path.join(storage, name)).subarray(offset, offset + size), info: opened.info }
      }),
    )
    expect(Buffer.compare(to!.unit, from!.unit)).toBe(0)
    expect(to!.info.video[0]).toMatchObject({ codec: 'rdd36', profile: '422', bitDepth: 10 })
  })

  it('with alpha says that it gets lost, and is made without', async () => {
    const by = recipe('viewing', { width: null, height: null })
    const item = await deliver(engine, { name: 'seen', file: 'keyed.mov', range: { in: 0, out: 10 }, by })
    expect(item.problem).toBeNull()
    const [d] = (await deliverables(engine)).filter((x) => x.outletId === 'seen')
    expect(d!.results.find((r) => r.rule.measure === 'alpha')!.verdict).toBe('caution')
  })

  it('of the size of BT.601, of which nothing says the colour, is taken for that, which is said', async () => {
    mezzanine(path.join(storage, 'old.mov'), 3, { width: 720, height: 576, codes: { colour: [2, 2, 2] } })
    const by = recipe('viewing', { width: null, height: null })
    const item = await deliver(engine, { name: 'old', file: 'old.mov', range: { in: 0, out: 3 }, by })
    const [d] = (await deliverables(engine)).filter((x) => x.outletId === 'old')
    expect(d!.output.notes).toContain('Nothing says the colour of its pictures: they are taken for BT.601, 625 lines.')
    const { proof } = (await engine.handover.one(item.id))!
    expect(proof.info.video[0]!.colour).toMatchObject({ primaries: 5, transfer: 6, matrix: 6 })
  })

  it.each([
    ['BT.601', { colour: [5, 6, 6] as const, red: [326, 361, 960] }],
    ['BT.709', { colour: [1, 1, 1] as const, red: [250, 409, 960] }],
    ['BT.2020', { colour: [9, 14, 9] as const, red: [294, 387, 960] }],
  ])('is shown red where it is the red of %s', async (name, { colour, red }) => {
    mezzanine(path.join(storage, `${name}.mov`), 3, { codes: { colour: [...colour] }, sample: (k) => red[k]! })
    const t = await engine.timelines.bringIn({ root: 'storage', path: `${name}.mov` })
    const looks = [await engine.viewing.picture(t, 1, 320), (await engine.viewing.exact(t, 1)).image]
    for (const image of looks) {
      const { channels } = await sharp(image).stats()
      const [r, g, b] = channels.map((c) => c.mean) as [number, number, number]
      expect(r).toBeGreaterThan(250)
      expect(Math.max(g, b)).toBeLessThan(4)
    }
  })

  it('beyond white is cut off in stills, which is said before', async () => {
    const sample = (k: number, x: number, y: number) => (k > 0 ? 512 : 20 + (((x * 7919 + y * 6007) >> 3) % 990))
    mezzanine(path.join(storage, 'wild.mov'), 5, { sample })
    const by = recipe('sequence', { stillFormat: 'dpx-10' })
    await engine.outlets.saveSpec({ ...openSpec, id: 'levels', name: 'Levels', rules: [levels] })
    const item = await deliver(engine, {
      name: 'stills',
      file: 'wild.mov',
      range: { in: 1, out: 4 },
      by,
      spec: 'levels',
    })
    const [d] = (await deliverables(engine)).filter((x) => x.outletId === 'stills')
    const before = d!.results.find((r) => r.rule.measure === 'levels')!
    expect([before.verdict, before.why]).toEqual(['caution', expect.stringContaining('Its pictures are changed')])
    expect(d!.output.notes).toContain('Levels beyond black and white, in 3 frames of it, are cut off in the files.')
    const { proof } = (await engine.handover.one(item.id))!
    expect(proof.results.find((r) => r.rule.measure === 'levels')!.verdict).toBe('pass')
  })

  it('loses a frame that is damaged, and no other', async () => {
    const opened = await openMediaFile(path.join(storage, 'reel.mov'), 'reel.mov')
    const track = opened.media!.video[0]!
    const { offset, size } = track.sample(track.sampleOfFrame(9))
    await opened.close()
    const bytes = readFileSync(path.join(storage, 'reel.mov'))
    bytes.fill(0, offset + size - 900, offset + size)
    writeFileSync(path.join(storage, 'torn.mov'), bytes)
    const { intact } = await measureFile(path.join(storage, 'torn.mov'))
    expect(intact!.text).toBe('not whole (The picture at 10:00:00:09 cannot be decoded)')
  })
})
