import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { keyText } from '../../core/deliverable/outlet'
import { measureOf, measures } from '../../core/measure/registry'
import type { Recipe } from '../../core/recipe/recipe'
import { missOf, type RuleResult } from '../../core/spec/judge'
import { openSpec } from '../../core/spec/shipped'
import { acceptedOf, isAccepted } from '../../core/spec/waiver'
import { makeRate } from '../../core/time/rate'
import { elementOf, timecode } from '../../tests/blanking'
import { film } from '../../tests/film'
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
import { mezzanine } from '../../tests/mezzanine'
import type { Session } from '../session'

// What is said of a file before it is made is what is read of it when it is written: where both are known, they agree.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session

/** Rules that ask about everything there is to ask of a file, and keep nothing back. */
const everything = {
  ...openSpec,
  ...{ id: 'everything', name: 'Everything' },
  rules: measures.map((m) => ({
    ...{
      id: `all-${m.name}`,
      measure: m.name,
      severity: 'should' as const,
      expect: { equals: 'anything' },
      clause: '1',
    },
  })),
}

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  writeFileSync(path.join(storage, 'film.mxf'), await film({ lines: () => elementOf([timecode]) }))
  writeFileSync(path.join(storage, 'intra.mxf'), await film({ codec: 'h264-intra' }))
  await smallReel(path.join(storage, 'reel.mov'))
  await smallReel(path.join(storage, 'fast.mov'), { rate: makeRate(50) })
  // levels far beyond black and white
  mezzanine(path.join(storage, 'wild.mov'), 10, {
    sample: (k, x, y) => (k > 0 ? 512 : 20 + (((x * 7919 + y * 6007) >> 3) % 990)),
  })
  const sound = Float32Array.from({ length: 96_000 }, (_, i) => Math.sin(i / 20) / 2)
  const said = { description: '', originator: '', originatorReference: '', date: '', time: '', history: '' }
  const bext = { ...said, timeReference: 0, loudness: null }
  const head = wavHead({ channels: 2, sampleRate: 48_000, bitDepth: 16, samples: 96_000, cues: [], bext })
  writeFileSync(path.join(storage, 'tape.wav'), Buffer.concat([head, encodePcm([sound, sound], 16, true)]))
  // what its first two channels are silent of, and the others click in
  const [pair, others] = [Float32Array.from(sound).fill(0, 30_000, 60_000), Float32Array.from(sound)]
  others[20_000]! += 0.4
  const four = wavHead({ channels: 4, sampleRate: 48_000, bitDepth: 24, samples: 96_000, cues: [], bext })
  const samples = encodePcm([pair, pair, others, others], 24, true)
  writeFileSync(path.join(storage, 'tracks.wav'), Buffer.concat([four, samples]))
  engine = await testEngine(folder)
  await engine.outlets.saveSpec(everything)
  for (const [file, to] of [
    ['reel.mov', 9],
    ['film.mxf', 9],
    ['intra.mxf', 9],
    ['fast.mov', 9],
    ['wild.mov', 9],
    ['tape.wav', 90_000],
    ['tracks.wav', 90_000],
  ] as const) {
    const { id, splitVersion } = await engine.timelines.bringIn({ root: 'storage', path: file })
    const region = { id: 'r', name: 'Fog Bell', in: 1, out: to, metadata: {} }
    await engine.timelines.saveSplit(id, { regions: [region], markers: [] }, splitVersion)
  }
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** Measures whose forecast is of another thing than what is written, or is not said to be exact. */
const other = new Set(['free-room', 'possible', 'intact'])

/** The numbers of a reading, where it is one or several. */
const numbersIn = (value: unknown): readonly number[] =>
  [value].flat().filter((v): v is number => typeof v === 'number' && Number.isFinite(v))

/** How far numbers lie from others at most; infinitely where there are not as many of them, or none. */
const farthest = (some: readonly number[], others: readonly number[]) =>
  some.length && some.length === others.length ? Math.max(...some.map((v, i) => Math.abs(v - others[i]!))) : Infinity

it.each<[string, string, Recipe, readonly string[]]>([
  [
    'a master',
    'reel.mov',
    recipe('master'),
    ['picture-bit-rate', 'constant-size', 'captions', 'ancillary', 'file-size'],
  ],
  ['a smaller master', 'reel.mov', recipe('master', { width: 128, height: 72, channels: [2, 1], gain: -3 }), []],
  ['a master with line-up', 'reel.mov', recipe('master', { lineUp: -18 }), []],
  ['sound brought together', 'tape.wav', recipe('sound', { downmix: 'mono', soundDepth: 16 }), []],
  [
    'a small copy of many bits',
    'reel.mov',
    recipe('viewing', { width: 640, height: 360, pictureBitrate: 40_000 }),
    ['level'],
  ],
  ['a viewing copy', 'reel.mov', recipe('viewing'), ['captions', 'caption-packets', 'ancillary']],
  ['a mute viewing copy', 'film.mxf', recipe('viewing', { width: 640, height: 360, channels: 'none' }), []],
  ['a rewrap', 'reel.mov', recipe('rewrap'), []],
  ['a rewrap of MXF', 'intra.mxf', recipe('rewrap', { container: 'mxf' }), []],
  ['an uncompressed master of segmented frames', 'film.mxf', recipe('master'), ['scan']],
  [
    'a smaller copy with its timecode',
    'reel.mov',
    recipe('viewing', { width: 320, height: 180, burnTimecode: true }),
    [],
  ],
  ['a broadcast master', 'film.mxf', recipe('broadcast'), ['picture-bit-rate', 'constant-size', 'intra']],
  ['a broadcast master of class 50', 'film.mxf', recipe('broadcast-50'), ['profile', 'chroma', 'picture-bit-rate']],
  [
    'a broadcast master of fields',
    'fast.mov',
    recipe('broadcast-50', { scan: 'interlaced-tff', handles: 1 }),
    ['scan'],
  ],
  ['a broadcast master with line-up', 'film.mxf', recipe('broadcast', { lineUp: -18 }), ['line-up']],
  [
    'a master of MPEG-2 in partitions',
    'reel.mov',
    recipe('mpeg2', { partitions: 1, handles: 30 }),
    ['body-partitions', 'body-partition-length'],
  ],
  ['a master of MPEG-2', 'film.mxf', recipe('mpeg2'), ['picture-bit-rate', 'constant-size', 'intra']],
  ['D-10', 'film.mxf', recipe('d10'), []],
  ['D-10 with sound', 'reel.mov', recipe('d10'), ['file-size']],
  ['a sequence', 'reel.mov', recipe('sequence'), []],
  ['a sequence of TIFF at another rate', 'fast.mov', recipe('sequence', { stillFormat: 'tiff-16' }), []],
  ['a sequence of PNG', 'reel.mov', recipe('sequence', { stillFormat: 'png-16' }), []],
  ['a sequence of OpenEXR', 'reel.mov', recipe('sequence', { stillFormat: 'exr-zip' }), []],
  ['a still', 'reel.mov', recipe('still'), []],
  ['a master beyond white', 'wild.mov', recipe('master'), ['levels']],
  ['a sequence of what cannot be beyond white', 'wild.mov', recipe('sequence', { stillFormat: 'dpx-10' }), []],
  ['a smaller master beyond white', 'wild.mov', recipe('master', { width: 160, height: 90 }), []],
  ['a viewing copy beyond white', 'wild.mov', recipe('viewing', { width: null, height: null }), []],
  ['a sequence beyond white', 'wild.mov', recipe('sequence', { stillFormat: 'exr-zip' }), ['levels']],
  ['a master at 96 kHz', 'reel.mov', recipe('master', { sampleRate: 96_000 }), []],
  [
    'a smaller copy at 96 kHz',
    'reel.mov',
    recipe('viewing', { width: 320, height: 180, sampleRate: 96_000, soundBitrate: 320 }),
    [],
  ],
  ['sound of pictures', 'reel.mov', recipe('sound'), []],
  ['sound', 'tape.wav', recipe('sound'), ['sound-depth-used']],
  ['two of four channels', 'tracks.wav', recipe('sound', { channels: [1, 2] }), []],
  ['two others of four channels', 'tracks.wav', recipe('sound', { channels: [4, 3] }), []],
  ['sound at another rate', 'tape.wav', recipe('sound', { sampleRate: 44_100 }), []],
])('%s', async (name, file, by, known) => {
  // what is coded with loss sounds a little other than what it is made from
  const near = by.kind === 'viewing' || by.sampleRate !== null ? 0.2 : 1e-3
  const id = name.replaceAll(' ', '-')
  const spec = 'everything'
  await engine.outlets.save(outlet(id, 'storage', by, { spec }))
  const t = (await engine.timelines.list()).find((x) => x.file.path === file)!
  const key = { timelineId: t.id, regionId: 'r', outletId: id }
  await engine.outlets.choose([key], true)
  await engine.timelines.media.look()
  await drain(engine)
  const before = (await deliverables(engine)).find((d) => keyText(d) === keyText(key))!
  expect(before.results.filter((r) => r.blocks).map((r) => r.why)).toEqual([])
  await engine.nights.start(name, 2, [keyText(key)])
  await drain(engine)
  const [made] = (await latestRun(engine)).items
  expect([made!.state, made!.problem]).toEqual(['done', null])
  const { proof } = (await engine.handover.one(made!.id))!
  const written = new Map(proof.results.map((r) => [r.rule.measure, r.written]))
  const decides = (r: RuleResult) => r.forecast ?? (r.source?.aside ? null : r.source)
  const rough = (r: RuleResult) => r.forecast?.aside === 'rough' && !r.forecast.give
  const said = before.results.filter((r) => decides(r) && !other.has(r.rule.measure) && !rough(r))
  expect(said.map((r) => r.rule.measure)).toEqual(expect.arrayContaining([...known]))
  const differ = said.flatMap((r) => {
    const { measure } = r.rule
    const forecast = decides(r)!
    const w = written.get(measure)
    const apart = farthest(numbersIn(w?.value), numbersIn(forecast.value))
    const same =
      measureOf(measure).stage === 'before' ||
      forecast.value === null ||
      apart < (forecast.aside === 'rough' ? forecast.give!.by : near) ||
      JSON.stringify(w?.value) === JSON.stringify(forecast.value)
    return same ? [] : [`${measure}: forecast ${forecast.text}, written ${w?.text ?? 'nothing'}`]
  })
  expect(differ).toEqual([])
  // who accepts what is foreseen has accepted what comes
  const refused = proof.results.flatMap((r) => {
    const miss = missOf(said.find((x) => x.rule.id === r.rule.id) ?? r)
    const came = missOf(r)
    const waiver = miss && { rule: r.rule.id, reason: '', initials: '', at: '', accepted: acceptedOf(miss) }
    return !waiver || !came || isAccepted(waiver, came) ? [] : [`${miss.why} ${came.why}`]
  })
  expect(refused).toEqual([])
})
