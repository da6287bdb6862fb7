import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import type { MediaInfo } from '../../core/media/media'
import { makeRate, type Frames } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import { machineCodecs } from '../worker/codecs'

// Sound alone as it stands in a master: a tone and silence in front, and its parts with breaks between them.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const at = (n: Frames) => sampleAtFrame(n, makeRate(25), 48000)
const wave = Float32Array.from({ length: at(120) }, (_, i) => 0.1 * Math.sin(i / 30) + 0.05 * Math.sin(i / 7))
let engine: Session
let sound: Float32Array
let info: MediaInfo
let bytes: Buffer

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { channels: [wave, wave.map((v) => -v)] })
  engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = (id: string, from: Frames, out: Frames) => ({ id, name: id, in: from, out, metadata: {} })
  const regions = [
    region('whole', 0, 120),
    { ...region('a', 10, 50), kind: 'part' as const },
    { ...region('b', 60, 110), kind: 'part' as const },
  ]
  await engine.timelines.saveSplit(t.id, { regions, markers: [{ id: 'm', at: 70, name: 'Bell' }] }, t.splitVersion)
  const by = { lineUp: -18 as const, breaks: 2, start: '10:00:00:00', channels: [1, 0], soundDepth: 16 as const }
  await engine.outlets.save(outlet('mix', 'storage', recipe('sound', by)))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'whole', outletId: 'mix' }], true)
  await drain(engine)
  await engine.nights.start('night', 2)
  await drain(engine)
  const [item] = (await latestRun(engine)).items
  expect([item!.state, item!.verdict, item!.problem]).toEqual(['done', 'pass', null])
  const source = await openFile(path.join(storage, item!.path))
  const media = await openMedia(source)
  info = media.info
  const channels = await openSound(media, machineCodecs())!.read(0, info.audio[0]!.samples)
  expect(channels[1]!.every((v) => v === 0)).toBe(true)
  sound = channels[0]!
  bytes = Buffer.from(await source.read(0, 2048))
  await source.close()
})
afterAll(async () => {
  await engine.close()
  remove()
})

const second = (n: number) => n * 48000
const lead = second(30)

it('is as long as the master is, and begins half a minute before the programme', () => {
  expect(sound.length).toBe(lead + at(40) + second(2) + at(50))
  expect(info.bext!.timeReference).toBe(second(10 * 3600) - lead)
})

it('has its tone, silence that nothing was added to, and its parts in place', () => {
  const peak = (from: number, to: number) => sound.subarray(from, to).reduce((m, v) => Math.max(m, Math.abs(v)), 0)
  expect(20 * Math.log10(peak(0, second(20)))).toBeCloseTo(-18, 1)
  const silent = [
    [second(20), lead],
    [lead + at(40), lead + at(40) + second(2)],
  ] as const
  for (const [from, to] of silent) expect(peak(from, to)).toBe(0)
  const same = (from: number, own: number, count: number) => {
    let most = 0
    for (let i = 0; i < count; i++) most = Math.max(most, Math.abs(sound[from + i]! - wave[own + i]!))
    return most
  }
  // noise of two steps of 16 bits and half a step of rounding
  for (const most of [same(lead, at(10), at(40)), same(lead + at(40) + second(2), at(60), at(50))]) {
    expect(most).toBeLessThan(1.51 / 32768)
    expect(most).toBeGreaterThan(0.9 / 32768)
  }
})

it('tells the loudness of its programme, and its chapter where it is', async () => {
  const { proof } = (await engine.handover.one((await latestRun(engine)).items[0]!.id))!
  expect(info.bext!.loudness).toBeCloseTo(proof.sound!.integrated!, 1)
  expect(proof.sound!.integrated!).toBeLessThan(-19.5)
  const cue = bytes.indexOf('cue ')
  expect(bytes.readUInt32LE(cue + 8 + 4 + 20)).toBe(lead + at(40) + second(2) + at(10))
})
