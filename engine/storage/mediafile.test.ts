import { mkdirSync, readFileSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, describe, expect, it } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { toRgb } from '../../core/picture/picture'
import { writeTimelineCsv } from '../../core/timeline/formats/csv'
import { normalSpeed, type Timeline } from '../../core/timeline/model'
import { makeRate } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import { wavHead } from '../../core/container/wav/write'
import { drawFrame, readCounter } from '../../demo/reel'
import { drain, outlet, recipe, scratchFolder, smallPlan, testEngine } from '../../tests/fixtures'
import { filesOf } from '../../core/files/fileset'
import { statMedia } from './fileset'
import { openMediaFile } from './mediafile'

const { folder, remove } = scratchFolder()
afterAll(remove)
const rate = makeRate(24)
const plan = smallPlan({ rate, start: 0 })
const stills = path.join(folder, 'storage', 'scans')
mkdirSync(stills, { recursive: true })

/** A drawn frame as full-range RGB. */
const rgbOf = (n: number) => Buffer.from(toRgb(drawFrame(plan, n)).rgb)
const wav = (file: string, channels: Float32Array[]) =>
  writeFileSync(
    file,
    Buffer.concat([
      wavHead({
        channels: channels.length,
        sampleRate: 48000,
        bitDepth: 24,
        samples: channels[0]!.length,
        bext: {
          description: '',
          originator: '',
          originatorReference: '',
          date: '',
          time: '',
          timeReference: 0,
          loudness: null,
          history: '',
        },
      }),
      encodePcm(channels, 24, true),
    ]),
  )

describe('stills and mono files as sources', () => {
  it('are linked from a list, keep the timeline’s rate, and are exported exactly', async () => {
    for (let n = 0; n < 30; n++)
      await sharp(rgbOf(n), { raw: { width: plan.width, height: plan.height, channels: 3 } })
        .png({ compressionLevel: 1 })
        .toFile(path.join(stills, `fog_${String(86400 + n)}.png`))
    plan.channels.forEach((c, i) => wav(path.join(folder, 'storage', `mix.${i ? 'R' : 'L'}.wav`), [c]))
    const event = { reel: '', speed: normalSpeed, transition: null, record: { in: 0, out: 20 }, name: '' }
    const timeline: Timeline = {
      name: 'Scans',
      rate,
      dropFrame: false,
      start: 86400,
      length: 20,
      markers: [],
      tracks: [
        { name: 'V', kind: 'video' },
        { name: 'A1', kind: 'audio' },
      ],
      events: [
        { ...event, track: 'V', kind: 'video', file: 'fog_#####.png', source: { in: 86405, out: 86425, rate } },
        { ...event, track: 'A1', kind: 'audio', file: 'mix.wav', source: { in: 5, out: 25, rate } },
      ],
    }
    writeFileSync(path.join(folder, 'storage', 'scans.csv'), writeTimelineCsv(timeline).text)
    const engine = await testEngine(folder)
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'scans.csv' })
    expect(t.linking!.sources.map((s) => [s.state, s.linked?.path])).toEqual([
      ['linked', 'scans/fog_[86400-86429].png'],
      ['linked', 'mix.{L,R}.wav'],
    ])
    expect(t.info).toMatchObject({ video: [{ codec: 'png', rate, width: 640 }], audio: [{ channels: 2 }] })
    await engine.timelines.saveSplit(
      t.id,
      { regions: [{ id: 'r', name: 'r', in: 0, out: 20, metadata: {} }], markers: [] },
      1,
    )
    for (const kind of ['master', 'sound'] as const) await engine.outlets.save(outlet(kind, 'storage', recipe(kind)))
    await engine.outlets.choose(
      ['master', 'sound'].map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId })),
      true,
    )
    await drain(engine)
    const run = await engine.nights.start('night', 2)
    await drain(engine)
    const { items } = await engine.progress.view(run)
    expect(items.map((i) => [i.state, i.problem?.message ?? null])).toEqual([
      ['done', null],
      ['done', null],
    ])
    const master = await openMediaFile(path.join(folder, 'storage', items[0]!.path), 'master')
    const numbers: (number | null)[] = []
    for await (const { picture } of master.pictures(null).read({ in: 0, out: 20 }))
      numbers.push(readCounter(picture.planes[0], picture.width, picture.bitDepth))
    expect(numbers).toEqual(Array.from({ length: 20 }, (_, i) => i + 5))
    const sound = master.sound(null)!
    const heard = await sound.read(0, sound.samples)
    const from = sampleAtFrame(5, rate, 48000)
    for (const c of [0, 1])
      for (let n = 0; n < sound.samples; n += 97) expect(heard[c]![n]).toBeCloseTo(plan.channels[c]![from + n]!, 5)
    await master.close()
    // a still that is gone is said, not passed over
    rmSync(path.join(stills, 'fog_86410.png'))
    expect((await engine.timelines.sources(await engine.timelines.get(t.id)))[0]).toMatchObject({ state: 'missing' })
    await engine.close()
  })
})

describe('stills as a timeline of their own', () => {
  it('run as fast as one says; frames and regions stay, what depends on the rate is looked at again', async () => {
    const own = scratchFolder()
    const scans = path.join(own.folder, 'storage', 'scans')
    mkdirSync(scans, { recursive: true })
    for (let n = 0; n < 12; n++)
      writeFileSync(
        path.join(scans, `bell_${String(n).padStart(3, '0')}.png`),
        await sharp(rgbOf(n), { raw: { width: plan.width, height: plan.height, channels: 3 } })
          .png({ compressionLevel: 1 })
          .toBuffer(),
      )
    const engine = await testEngine(own.folder)
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'scans/bell_[000-011].png' })
    expect([t.model.rate, t.model.length]).toEqual([makeRate(25), 12])
    await engine.timelines.saveSplit(
      t.id,
      { regions: [{ id: 'r', name: 'Bell', in: 3, out: 9, metadata: {} }], markers: [] },
      t.splitVersion,
    )
    await engine.outlets.save(outlet('o', 'storage', recipe('master', { channels: 'none' })))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
    await drain(engine)
    await expect(engine.timelines.setRate(t.id, makeRate(25, 2))).rejects.toMatchObject({
      problem: { code: 'timeline.rate' },
    })
    await engine.timelines.setRate(t.id, makeRate(24000, 1001))
    const now = await engine.timelines.get(t.id)
    expect([now.file.path, now.model.rate, now.model.length, now.split.regions.map((r) => [r.in, r.out])]).toEqual([
      'scans/bell_[000-011@23.976].png',
      makeRate(24000, 1001),
      12,
      [[3, 9]],
    ])
    expect(now.fingerprint.content).not.toBe(t.fingerprint.content)
    expect((await engine.viewing.analysis(now)).pictures).toBeNull()
    await drain(engine)
    const run = await engine.nights.start('night', 2)
    await drain(engine)
    const written = await openMediaFile(
      path.join(own.folder, 'storage', (await engine.progress.view(run)).items[0]!.path),
      'written',
    )
    expect(written.info.video[0]).toMatchObject({ rate: makeRate(24000, 1001), frames: 6 })
    await written.close()
    await expect(
      engine.timelines.setRate(
        (await engine.timelines.bringIn({ root: 'storage', path: (await engine.progress.view(run)).items[0]!.path }))
          .id,
        makeRate(50),
      ),
    ).rejects.toMatchObject({ problem: { code: 'timeline.own-rate' } })
    await engine.close()
    own.remove()
  })
})

describe('files under one name', () => {
  it('never lead out of their folder, by their names or by links', async () => {
    const outside = path.join(folder, 'outside.png')
    writeFileSync(outside, 'x')
    for (const name of ['{../x,L}.wav', 'mix_{..}.wav', 'mix_{a/b,c}.wav'])
      expect(() => filesOf(path.resolve(stills, name)), name).toThrow(
        expect.objectContaining({ problem: expect.objectContaining({ code: 'set.names' }) }),
      )
    for (const [n, target] of [
      [1, 'fog_86400.png'],
      [2, outside],
    ] as const)
      symlinkSync(target, path.join(stills, `lent_00${n}.png`))
    await expect(statMedia(path.join(stills, 'lent_[001-002].png'))).rejects.toMatchObject({
      problem: { code: 'set.link', where: 'lent_002.png' },
    })
    for (const n of [1, 2]) rmSync(path.join(stills, `lent_00${n}.png`))
  })
})

describe('stills that are broken', () => {
  it('are named', async () => {
    const file = path.join(stills, 'bad_001.png')
    writeFileSync(
      file,
      await sharp(rgbOf(0), { raw: { width: plan.width, height: plan.height, channels: 3 } })
        .png()
        .toBuffer(),
    )
    writeFileSync(path.join(stills, 'bad_002.png'), readFileSync(file))
    truncateSync(path.join(stills, 'bad_002.png'), 900)
    const opened = await openMediaFile(path.join(stills, 'bad_[001-002].png'), 'bad')
    const reading = async () => {
      for await (const { picture } of opened.pictures(null).read({ in: 0, out: 2 }))
        expect(picture.width).toBe(plan.width)
    }
    await expect(reading()).rejects.toMatchObject({ problem: { code: 'stills.undecodable', where: 'bad_002.png' } })
  })
})
