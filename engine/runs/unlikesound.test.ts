import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../core/timeline/model'
import { makeRate, type Frames } from '../../core/time/rate'
import { tones } from '../../tests/tones'
import { openFile } from '../storage/disk'
import { sourceOf } from '../timelines/timelines'
import { machineCodecs } from '../worker/codecs'
import { openSource } from '../worker/sources/source'
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

const { folder, remove } = scratchFolder()
afterAll(remove)

const rate = makeRate(25)
const storage = path.join(folder, 'storage')

/** How far sound is from tones at 48 kHz, each from its beginning on; nought is silence. */
const offFrom = (heard: readonly Float32Array[], hertz: readonly number[]) =>
  heard.map((channel, c) =>
    channel.reduce(
      (most, v, n) => Math.max(most, Math.abs(v - 0.5 * Math.sin((2 * Math.PI * hertz[c]! * n) / 48_000))),
      0,
    ),
  )

async function soundOf(file: string): Promise<Float32Array[]> {
  const source = await openFile(file)
  const sound = openSound(await openMedia(source), machineCodecs())!
  const out = await sound.read(0, sound.samples)
  await source.close()
  return out
}

const event = (track: string, file: string, from: Frames, to: Frames, first: Frames): TimelineEvent => ({
  ...{ track, name: file, reel: '', file, speed: normalSpeed, transition: null },
  kind: track.startsWith('A') ? 'audio' : 'video',
  source: { in: first, out: first + to - from, rate },
  record: { in: from, out: to },
})

it('brings sound of a list to the rate of most of it, says so, and writes it so', async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { start: 0 })
  tones(path.join(storage, 'band.wav'), [1000, 500], 44_100)
  const timeline: Timeline = {
    ...{ name: 'Tides', rate, dropFrame: false, start: 0, length: 75, markers: [] },
    tracks: [
      { name: 'V', kind: 'video' },
      { name: 'A1', kind: 'audio' },
    ],
    events: [event('V', 'reel.mov', 0, 75, 0), event('A1', 'reel.mov', 0, 50, 0), event('A1', 'band.wav', 50, 75, 10)],
  }
  writeFileSync(path.join(storage, 'tides.otio'), writeInterchange({ timeline }, 'otio').text)
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'tides.otio' })
  expect(t.linking!.sources.map((s) => [s.state, s.problem?.message ?? null])).toEqual([
    ['linked', null],
    ['sound-rate', 'The sound of “band.wav” runs at 44100 Hz, the timeline at 48000 Hz; it is brought to that.'],
  ])
  const source = await openSource(engine.roots, machineCodecs(), sourceOf(t))
  expect(source.canHear({ in: 0, out: 75 })).toBe(true)
  await source.close()
  const region = (id: string, from: Frames, to: Frames) => ({ id, name: id, in: from, out: to, metadata: {} })
  const regions = [region('reel', 0, 50), region('band', 50, 75)]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, t.splitVersion)
  await engine.outlets.save(outlet('sound', 'storage', recipe('sound')))
  const keys = regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'sound' }))
  await engine.outlets.choose(keys, true)
  await drain(engine)
  const cleared = async () => (await deliverables(engine)).map((d) => [d.regionId, d.cleared])
  expect(await cleared()).toEqual([
    ['reel', true],
    ['band', false],
  ])
  const waiver = { rule: 'house-possible', reason: 'the band played so', initials: 'QP', at: '' }
  await engine.nights.waive(keys.slice(1), waiver)
  await engine.nights.start('night', 2)
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => i.state)).toEqual(['done', 'done'])
  const made = path.join(storage, items.find((i) => i.path.includes('band'))!.path)
  // ten frames on in tones of a whole number of periods in each
  const heard = await soundOf(made)
  expect(heard.map((c) => c.length)).toEqual([48_000, 48_000])
  for (const off of offFrom(heard, [1000, 500])) expect(off).toBeLessThan(1e-5)
  await engine.close()
})

it('hears a pair on the third and fourth track of a list, and one channel on the second', async () => {
  rmSync(folder, { recursive: true })
  mkdirSync(storage, { recursive: true })
  tones(path.join(storage, 'BAND.wav'), [1000, 500])
  tones(path.join(storage, 'VOICE.wav'), [250])
  const list = [
    'TITLE: TIDES',
    'FCM: NON-DROP FRAME',
    ...[
      ['BAND', 'A3'],
      ['BAND', 'A4'],
      ['VOICE', 'A2'],
    ].map(([reel, track], i) =>
      [`00${i + 1}  ${reel!.padEnd(8)} ${track}    C       `, '00:00:00:00 00:00:03:00 01:00:00:00 01:00:03:00'].join(
        ' ',
      ),
    ),
  ]
  writeFileSync(path.join(storage, 'tides.edl'), list.join('\n'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'tides.edl' }, { rate })
  expect(t.linking!.sources.map((s) => [s.state, s.problem])).toEqual([
    ['linked', null],
    ['linked', null],
  ])
  const region = { id: 'r', name: 'all', in: 0, out: 75, metadata: {} }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, t.splitVersion)
  await engine.outlets.save(outlet('sound', 'storage', recipe('sound')))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'sound' }], true)
  await drain(engine)
  await engine.nights.start('night', 2)
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => i.problem?.message ?? i.state)).toEqual(['done'])
  const heard = await soundOf(path.join(storage, items[0]!.path))
  expect(heard).toHaveLength(4)
  for (const off of offFrom(heard, [0, 250, 1000, 500])) expect(off).toBeLessThan(1e-6)
  await engine.close()
})

it('hears one channel of each track of a list, or all of theirs: mixed, or side by side', async () => {
  rmSync(folder, { recursive: true })
  mkdirSync(storage, { recursive: true })
  tones(path.join(storage, 'band.wav'), [1000, 500])
  tones(path.join(storage, 'voice.wav'), [250, 125])
  const timeline: Timeline = {
    ...{ name: 'Tides', rate, dropFrame: false, start: 0, length: 75, markers: [] },
    tracks: ['A1', 'A2'].map((name) => ({ name, kind: 'audio' as const })),
    events: [event('A1', 'band.wav', 0, 75, 0), event('A2', 'voice.wav', 0, 75, 0)],
  }
  writeFileSync(path.join(storage, 'tides.otio'), writeInterchange({ timeline }, 'otio').text)
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'tides.otio' })
  expect(t.linking!.sources.map((s) => s.state)).toEqual(['some-channels', 'some-channels'])
  const region = { id: 'r', name: 'all', in: 0, out: 75, metadata: {} }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, t.splitVersion)
  await engine.outlets.save(outlet('sound', 'storage', recipe('sound')))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'sound' }], true)
  const made = async (name: string) => {
    await drain(engine)
    await engine.nights.start(name, 2)
    await drain(engine)
    const { items } = await latestRun(engine)
    expect(items.map((i) => i.problem?.message ?? i.state)).toEqual(['done'])
    return soundOf(path.join(storage, items[0]!.path))
  }
  for (const off of offFrom(await made('each'), [1000, 125])) expect(off).toBeLessThan(1e-6)
  await engine.timelines.setSoundTracks(t.id, 'mixed')
  const mixed = await engine.timelines.get(t.id)
  expect(mixed.linking!.sources.map((s) => s.state)).toEqual(['linked', 'linked'])
  expect(mixed.fingerprint.content).not.toBe(t.fingerprint.content)
  const heard = await made('mixed')
  const voice = [250, 125].map((h) =>
    Float32Array.from({ length: 144_000 }, (_, n) => 0.5 * Math.sin((2 * Math.PI * h * n) / 48_000)),
  )
  const band = heard.map((channel, c) => channel.map((v, n) => v - voice[c]![n]!))
  for (const off of offFrom(band, [1000, 500])) expect(off).toBeLessThan(1e-6)
  // added up and with a gain they go beyond full scale, which is said whoever asks
  await engine.outlets.save(outlet('loud', 'storage', recipe('sound', { gain: 3 })))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'loud' }], true)
  await drain(engine)
  const loud = (await deliverables(engine)).find((d) => d.outletId === 'loud')!
  const { verdict, why, fix } = loud.results.find((r) => r.rule.measure === 'full-scale')!
  expect([verdict, loud.cleared, fix?.overrides]).toEqual(['caution', true, { gain: 0.3 }])
  expect(why).toContain('channels 1 and 2 up to 2.7 dB beyond it')
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'loud' }], false)
  // side by side they are two mixes, of which the first is the programme
  await engine.timelines.setSoundTracks(t.id, 'beside')
  expect((await engine.timelines.get(t.id)).info.audio[0]).toMatchObject({ channels: 4, layout: 'L R L R' })
  for (const off of offFrom(await made('beside'), [1000, 500, 250, 125])) expect(off).toBeLessThan(1e-6)
  // what was read one way is another file, and back again the first one
  await engine.timelines.setSoundTracks(t.id, 'each')
  expect((await engine.timelines.get(t.id)).fingerprint.content).toBe(t.fingerprint.content)
  const file = await engine.timelines.bringIn({ root: 'storage', path: 'band.wav' })
  await expect(engine.timelines.setSoundTracks(file.id, 'mixed')).rejects.toThrow('is one flattened file')
  await engine.close()
})
