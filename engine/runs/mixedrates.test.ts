import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import { wavHead } from '../../core/container/wav/write'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../core/timeline/model'
import { makeRate, type Frames, type Samples } from '../../core/time/rate'
import { openFile } from '../storage/disk'
import { machineCodecs } from '../worker/codecs'
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

/** Four seconds of a tone in both channels of a WAV of 24 bits. */
function tone(file: string, hertz: number, sampleRate: number): void {
  const samples = 4 * sampleRate
  const channel = Float32Array.from(
    { length: samples },
    (_, n) => 0.5 * Math.sin((2 * Math.PI * hertz * n) / sampleRate),
  )
  const said = { description: '', originator: '', originatorReference: '', date: '', time: '', history: '' }
  const bext = { ...said, timeReference: 0, loudness: null }
  const head = wavHead({ channels: 2, sampleRate, bitDepth: 24, samples, cues: [], bext })
  writeFileSync(path.join(storage, file), Buffer.concat([head, encodePcm([channel, channel], 24, true)]))
}

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
  tone('band.wav', 1000, 44_100)
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
  await engine.outlets.waive(keys.slice(1), waiver)
  await engine.nights.start('night', 2)
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => i.state)).toEqual(['done', 'done'])
  const made = path.join(storage, items.find((i) => i.path.includes('band'))!.path)
  // ten frames on in a tone of a whole number of periods in each
  const heard = await soundOf(made)
  const ideal = (n: Samples) => 0.5 * Math.sin((2 * Math.PI * n) / 48)
  expect(heard.map((c) => c.length)).toEqual([48_000, 48_000])
  for (const channel of heard)
    expect(channel.reduce((most, v, n) => Math.max(most, Math.abs(v - ideal(n))), 0)).toBeLessThan(1e-5)
  await engine.close()
})
