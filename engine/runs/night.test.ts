import { mkdirSync, readdirSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import { sampleAtFrame } from '../../core/time/samples'
import { readCounter, type ReelPlan } from '../../demo/reel'
import { drain, outlet, rates, recipe, scratchFolder, smallReel, testEngine, latestRun } from '../../tests/fixtures'
import { machineCodecs } from '../worker/codecs'
import { openFile } from '../storage/disk'
import { Nights } from '../deliverables/nights'
import type { Session } from '../session'
import { readPaces } from '../store/paces'

const { folder, remove } = scratchFolder()
afterAll(remove)

async function open(file: string) {
  const source = await openFile(file)
  const media = await openMedia(source)
  const numbers: number[] = []
  if (media.video[0]) {
    for await (const { picture } of openPictures(media, machineCodecs()).read({
      in: 0,
      out: media.video[0].info.frames,
    }))
      numbers.push(readCounter(picture.planes[0], picture.width, picture.bitDepth) ?? -1)
  }
  const sound = openSound(media, machineCodecs())
  const samples = sound ? await sound.read(0, sound.samples) : []
  await source.close()
  return { media, numbers, samples }
}

describe.each(rates)('exports at $name', ({ name, rate, dropFrame }) => {
  const storage = path.join(folder, name.replaceAll(' ', ''), 'storage')
  let engine: Session
  let plan: ReelPlan
  const ranges = [
    { name: 'First', in: 7, out: 61 },
    { name: 'Second', in: 61, out: 118 },
  ]
  beforeAll(async () => {
    mkdirSync(storage, { recursive: true })
    plan = await smallReel(path.join(storage, 'reel.mov'), { rate, dropFrame })
    await smallReel(path.join(storage, 'intra.mov'), { rate, dropFrame, pictures: 'v210', width: 640, height: 360 })
    engine = await testEngine(path.dirname(storage))
    for (const o of [
      outlet('rewrap', 'storage', recipe('rewrap')),
      outlet('master', 'storage', recipe('master')),
      outlet('viewing', 'storage', recipe('viewing', { width: null, height: null })),
      outlet('sound', 'storage', recipe('sound')),
    ])
      await engine.outlets.save(o)
    for (const file of ['reel.mov', 'intra.mov']) {
      const t = await engine.timelines.bringIn({ root: 'storage', path: file })
      const regions = ranges.map((r, i) => ({
        id: `${file}-${i}`,
        name: `${r.name} ${t.name}`,
        in: r.in,
        out: r.out,
        metadata: {},
      }))
      await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
      for (const o of ['rewrap', 'master', 'viewing', 'sound'])
        await engine.outlets.choose(
          regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: o })),
          true,
        )
    }
    await drain(engine)
    await engine.nights.start('test', 2)
    await drain(engine)
  })
  afterAll(() => engine.close())

  it('finishes everything, proven', async () => {
    const run = (await latestRun(engine))!
    expect(run.items.map((i) => [i.state, i.problem?.message ?? '']).filter(([s]) => s !== 'done')).toEqual([])
    expect(run.items).toHaveLength(16)
    expect(run.state).toBe('done')
  })

  it.each(['rewrap', 'master', 'viewing'])('%s: every frame is the timeline’s own', async (kind) => {
    for (const source of ['reel', 'intra']) {
      for (const [i, r] of ranges.entries()) {
        const file = path.join(
          storage,
          'out',
          kind,
          `0${i + 1}_${r.name}_${source}.${kind === 'viewing' ? 'mp4' : 'mov'}`,
        )
        const { numbers, media } = await open(file)
        expect(numbers).toEqual(Array.from({ length: r.out - r.in }, (_, k) => r.in + k))
        expect(media.info.timecode).toMatchObject({ startFrames: plan.start + r.in, dropFrame })
        expect(media.info.video[0]!.rate).toEqual(rate)
        expect(media.info.indexAt).toBe('front')
      }
    }
  })

  it.each(['rewrap', 'master', 'sound'])('%s: every sample is the timeline’s own', async (kind) => {
    for (const [i, r] of ranges.entries()) {
      const { samples } = await open(
        path.join(storage, 'out', kind, `0${i + 1}_${r.name}_reel.${kind === 'sound' ? 'wav' : 'mov'}`),
      )
      const [from, to] = [sampleAtFrame(r.in, rate, 48000), sampleAtFrame(r.out, rate, 48000)]
      plan.channels.forEach((c, k) => {
        const codes = (x: Float32Array) => Buffer.from(Int32Array.from(x, (v) => Math.round(v * 2 ** 23)).buffer)
        expect(codes(samples[k]!).equals(codes(c.subarray(from, to)))).toBe(true)
      })
    }
  })

  it('viewing: coded sound lies where it should, to the sample', async () => {
    const r = ranges[1]!
    const { samples } = await open(path.join(storage, 'out', 'viewing', `02_${r.name}_reel.mp4`))
    const from = sampleAtFrame(r.in, rate, 48000)
    expect(samples[0]!.length).toBe(sampleAtFrame(r.out, rate, 48000) - from)
    const error = (shift: number) => {
      let sum = 0
      for (let k = 20000; k < 40000; k++) sum += (samples[0]![k]! - plan.channels[0]![from + k + shift]!) ** 2
      return sum
    }
    const shifts = Array.from({ length: 41 }, (_, k) => k - 20)
    expect(shifts.reduce((best, s) => (error(s) < error(best) ? s : best), 0)).toBe(0)
  })

  it('learns how fast its steps went, and forecasts the next night by it', async () => {
    const paces = await readPaces(engine.db)
    const { db, timelines, outlets, deliverables, runs } = engine
    const tomorrow = new Nights(db, timelines, outlets, deliverables, runs)
    for (const d of await tomorrow.judged()) {
      const seconds = d.draft.steps.map((s) => (s.range.out - s.range.in) / (paces.get(s.pace!) ?? Number.NaN))
      expect(d.seconds).toBeCloseTo(
        seconds.reduce((a, b) => a + b, 0),
        6,
      )
    }
  })

  it('leaves no scratch files, and reports beside the files', () => {
    expect(readdirSync(storage).filter((f) => f.startsWith('.velvet'))).toEqual([])
    const out = path.join(storage, 'out', 'master')
    const report = readdirSync(out).find((f) => f.endsWith('.json'))!
    const parsed = JSON.parse(readFileSync(path.join(out, report), 'utf8')) as {
      files: { path: string; verdict: string; checksums: { sha256: string } }[]
    }
    expect(parsed.files).toHaveLength(4)
    expect(readFileSync(path.join(out, report.replace('.json', '.sha256')), 'utf8').split('\n')[0]).toMatch(
      /^[0-9a-f]{64} {2}0\d_/,
    )
  })
})
