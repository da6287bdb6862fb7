import { execFileSync, spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Recipe } from '../../core/recipe/recipe'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../core/timeline/model'
import { makeRate } from '../../core/time/rate'
import { openSpec } from '../../core/spec/shipped'
import { deliver, deliverables, drain, outlet, recipe, scratchFolder, testEngine } from '../../tests/fixtures'
import { makeScenes } from '../../tests/scenes'
import { tones } from '../../tests/tones'
import type { Session } from '../session'
import { measureFile } from '../worker/measurefile'

// Which channel is which: what a source says of it is said of the file, and decides what its loudness is.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session

const film = 'L C R Ls Rs LFE'

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await makeScenes(path.join(storage, 'voices.mov'), [[1, 0, 50]], [film], [0.1, 0.1, 0, 0, 0, 0.9])
  // a tone in the left channel, and a loud one where nothing counts
  await makeScenes(path.join(storage, 'film.mov'), [[1, 0, 50]], [film], [0.1, 0, 0, 0, 0, 0.9])
  await makeScenes(path.join(storage, 'pairs.mov'), [[1, 0, 50]], ['L R', 'L R', 'L R'], [0.1, 0.1, 0.5, 0.5, 0.9, 0.9])
  engine = await testEngine(folder)
  const rule = { id: 'heard', measure: 'loudness', severity: 'should' as const, expect: { target: -23, tolerance: 1 } }
  await engine.outlets.saveSpec({ ...openSpec, id: 'heard', name: 'Heard', rules: [{ ...rule, clause: '1' }] })
})
afterAll(async () => {
  await engine.close()
  remove()
})

it.each<[string, Recipe, string, number, string | null, string]>([
  ['film-master', recipe('master'), 'film.mov', -23, film, 'other'],
  ['film-sound', recipe('sound'), 'film.mov', -23, null, 'other'],
  ['film-rewrap', recipe('rewrap'), 'film.mov', -23, film, 'other'],
  ['film-ordered', recipe('sound', { channels: [1, 3, 2, 6, 4, 5] }), 'film.mov', -23, 'L R C LFE Ls Rs', 'usual'],
  ['film-left', recipe('sound', { channels: [1] }), 'film.mov', -23, null, 'usual'],
  ['pairs-master', recipe('master'), 'pairs.mov', -20, 'L R L R L R', 'usual'],
  ['pairs-rewrap', recipe('rewrap'), 'pairs.mov', -20, 'L R L R L R', 'usual'],
  ['film-stereo', recipe('sound', { downmix: 'stereo' }), 'film.mov', -23, null, 'usual'],
  ['film-copy', recipe('viewing', { channels: 'all', downmix: 'stereo' }), 'film.mov', -23, null, 'usual'],
])('%s', async (name, by, file, loudness, layout, order) => {
  const item = await deliver(engine, { name, file, range: { in: 0, out: 50 }, by, spec: 'heard' })
  expect(item.problem).toBeNull()
  const { proof } = (await engine.handover.one(item.id))!
  const of = (measure: string, results = proof.results) => results.find((r) => r.rule.measure === measure)!
  const [before] = (await deliverables(engine)).filter((d) => d.outletId === name)
  expect(of('loudness', before!.results).forecast!.value).toBeCloseTo(loudness, 1)
  expect(of('loudness').written!.value).toBeCloseTo(loudness, 1)
  const names = proof.info.audio.map((a) => a.layout)
  expect(names.includes(null) ? null : names.join(' ')).toBe(layout)
  // of another machine nothing is known but what the file says
  if (layout) expect((await measureFile(path.join(storage, item.path))).loudness!.value).toBeCloseTo(loudness, 1)
  expect(of('channel-order', before!.results).forecast!.value).toBe(order)
  expect(of('channel-order').written!.value).toBe(order)
})

it('the loudness of every mix is foreseen, written and found by a stranger, silence as well', async () => {
  await makeScenes(path.join(storage, 'mute.mov'), [[1, 0, 50]], ['L R', 'L R', 'L R'], [0.1, 0.1, 0.5, 0.5, 0, 0])
  const rule = { id: 'mixes', measure: 'mixes-loudness', severity: 'should', expect: { max: -1 }, clause: '1' } as const
  await engine.outlets.saveSpec({ ...openSpec, id: 'mixes', name: 'Mixes', rules: [rule] })
  const item = await deliver(engine, {
    ...{ name: 'mute', file: 'mute.mov', range: { in: 0, out: 50 }, by: recipe('master'), spec: 'mixes' },
  })
  expect(item.problem).toBeNull()
  const [before] = (await deliverables(engine)).filter((d) => d.outletId === 'mute')
  const { proof } = (await engine.handover.one(item.id))!
  const stranger = { root: 'storage', path: path.dirname(item.path) }
  await engine.received.list(stranger, 'mixes')
  await engine.received.measure(stranger)
  await drain(engine)
  const found = await engine.received.results({ root: 'storage', path: item.path }, 'mixes')
  for (const results of [before!.results, proof.results, found]) {
    const own = results.find((r) => r.rule.measure === 'mixes-loudness')!
    expect([own.verdict, (own.written ?? own.forecast)!.text]).toEqual([
      'pass',
      '−6.0 LUFS in channels 3 and 4 and silence in channels 5 and 6',
    ])
  }
})

it('a tone is asked of left and right wherever they are, before and after', async () => {
  const expectation = { target: -18, tolerance: 0.5 }
  const rule = { id: 'tone', measure: 'tone-level', severity: 'must', expect: expectation, clause: '1' } as const
  await engine.outlets.saveSpec({ ...openSpec, id: 'toned', name: 'Toned', rules: [rule] })
  const by = recipe('master', { lineUp: -18, start: '10:00:00:00', channels: [1, 0, 3], width: 128, height: 72 })
  const item = await deliver(engine, { name: 'toned', file: 'film.mov', range: { in: 0, out: 50 }, by, spec: 'toned' })
  expect(item.problem).toBeNull()
  const [before] = (await deliverables(engine)).filter((d) => d.outletId === 'toned')
  const { proof } = (await engine.handover.one(item.id))!
  for (const results of [before!.results, proof.results])
    expect(results.find((r) => r.rule.id === 'tone')).toMatchObject({ verdict: 'pass' })
})

it('a viewing copy of six channels has them in one order alone', async () => {
  const by = recipe('viewing', { channels: 'all', width: null, height: null })
  const made = deliver(engine, { name: 'copy', file: 'film.mov', range: { in: 0, out: 50 }, by })
  await expect(made).rejects.toThrow('no deliverable is cleared')
  const [d] = (await deliverables(engine)).filter((x) => x.outletId === 'copy')
  expect(d!.results.find((r) => r.rule.id === 'house-possible')!.why).toContain('these are L C R Ls Rs LFE')
  expect(d!.results.find((r) => r.rule.id === 'trap-order')).toMatchObject({
    verdict: 'caution',
    fix: { overrides: { channels: [1, 3, 2, 6, 4, 5] } },
  })
})

it.skipIf(spawnSync('sox', ['--version']).error)('a downmix is what sox makes of the same, with its gain', async () => {
  tones(path.join(storage, 'tones.wav'), [200, 300, 400, 500, 600, 700])
  const by = recipe('sound', { downmix: 'stereo', gain: -9 })
  const item = await deliver(engine, { name: 'mixed', file: 'tones.wav', range: { in: 0, out: 192_000 }, by })
  expect(item.problem).toBeNull()
  const by775 = ['remix', '-m', '1,3v0.70710678,5v0.70710678', '2,3v0.70710678,6v0.70710678']
  const raw = ['-t', 'raw', '-e', 'float', '-b', '32', 'out.f32']
  const read = (file: string, ...effects: string[]) => {
    execFileSync('sox', [file, ...raw, ...effects], { cwd: storage })
    return new Float32Array(readFileSync(path.join(storage, 'out.f32')).buffer)
  }
  const theirs = read('tones.wav', 'gain', '-9', ...by775)
  const ours = read(item.path)
  expect(ours.length).toBe(2 * 192_000)
  expect(ours.reduce((most, v, n) => Math.max(most, Math.abs(v - theirs[n]!)), 0)).toBeLessThan(4e-7)
})

it('what a downmix drives beyond full scale is told before, with the gain that keeps it', async () => {
  const by = recipe('sound', { downmix: 'stereo' })
  await engine.outlets.save(outlet('loud', 'storage', by))
  const t = (await engine.timelines.list()).find((x) => x.file.path === 'tones.wav')!
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'loud' }], true)
  await drain(engine)
  const [d] = (await deliverables(engine)).filter((x) => x.outletId === 'loud')
  const trap = d!.results.find((r) => r.rule.measure === 'full-scale')!
  expect([trap.verdict, trap.forecast!.text]).toEqual(['caution', 'channel 2 up to 0.3 dB beyond it, cut off there'])
  expect(trap.fix!.overrides).toEqual({ gain: -0.3 })
})

it('of a list is what all its sources say, in its traps and in what is made of it', async () => {
  const event = (track: string, kind: 'audio' | 'video', file: string): TimelineEvent => ({
    ...{ track, kind, name: file, reel: '', file, speed: normalSpeed, transition: null },
    source: { in: 0, out: 50, rate: makeRate(25) },
    record: { in: 0, out: 50 },
  })
  const timeline: Timeline = {
    ...{ name: 'Lamplight', rate: makeRate(25), dropFrame: false, start: 0, length: 50, markers: [] },
    tracks: [
      { name: 'V', kind: 'video' },
      { name: 'A', kind: 'audio' },
    ],
    events: [event('V', 'video', 'film.mov'), event('A', 'audio', 'voices.mov')],
  }
  writeFileSync(path.join(storage, 'lamplight.otio'), writeInterchange({ timeline }, 'otio').text)
  const request = { file: 'lamplight.otio', range: { in: 0, out: 50 }, spec: 'heard' }
  const pair = recipe('sound', { channels: [1, 3] })
  expect((await deliver(engine, { ...request, name: 'list-pair', by: pair })).problem).toBeNull()
  const of = async (name: string, measure: string) =>
    (await deliverables(engine)).find((d) => d.outletId === name)!.results.find((r) => r.rule.measure === measure)!
  expect((await of('list-pair', 'channel-order')).verdict).toBe('pass')
  expect(await of('list-pair', 'heard-channels')).toMatchObject({
    verdict: 'caution',
    fix: { overrides: { channels: [1, 2, 3, 4, 5, 6], downmix: 'stereo' } },
  })
  const whole = await deliver(engine, { ...request, name: 'list-whole', by: recipe('sound', { downmix: 'stereo' }) })
  const { proof } = (await engine.handover.one(whole.id))!
  const { written } = proof.results.find((r) => r.rule.measure === 'loudness')!
  // one tone on both sides: 0.1 and its share of the centre on the left, that share alone on the right
  const level = 10 * Math.log10(((0.1 + 0.1 * Math.SQRT1_2) ** 2 + 0.005) / 0.01) - 23
  expect(written!.value).toBeCloseTo(level, 1)
  expect((await of('list-whole', 'loudness')).forecast!.value).toBeCloseTo(level, 1)
})
