import { mkdirSync, utimesSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { drain, scratchFolder, testEngine } from '../../tests/fixtures'
import { fingerprintOf } from '../storage/fingerprint'
import type { Session } from '../session'
import type { SplitTimeline } from '../../core/split/timeline'

// A mix that is written again with one passage mended: of one size, and alike wherever a fingerprint looks.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const file = path.join(storage, 'Tides', 'mix.wav')
const place = { root: 'storage', path: 'Tides/mix.wav' }
let engine: Session
let first: SplitTimeline
let mixed: Buffer

/** Writes it again at a time, with a quarter of a second silent that no fingerprint looks at. */
function mend(time: number): void {
  const bytes = Buffer.from(mixed)
  const between = Math.floor((65_536 + (bytes.length - 65_536) / 16) / 2)
  bytes.fill(0, between, between + 40_000)
  writeFileSync(file, bytes)
  utimesSync(file, time, time)
}
const loudness = async (t: SplitTimeline) => (await engine.viewing.analysis(t)).sound!.ribbon

const seconds = 30

/** A mix whose loudness comes and goes. */
function mixOf(): Buffer {
  const shape = { channels: 1, sampleRate: 48_000, bitDepth: 24, samples: seconds * 48_000 } as const
  const bext = { description: '', originator: '', originatorReference: '', date: '', time: '', history: '' }
  const head = wavHead({ ...shape, bext: { ...bext, timeReference: 0, loudness: null } })
  const sound = Float32Array.from({ length: shape.samples }, (_, i) => 0.3 * Math.sin(i / 11) * Math.sin(i / 40_000))
  return Buffer.concat([head, encodePcm([sound], 24, true)])
}

beforeAll(async () => {
  mkdirSync(path.dirname(file), { recursive: true })
  mixed = mixOf()
  writeFileSync(file, mixed)
  utimesSync(file, 1_000_000, 1_000_000)
  engine = await testEngine(folder)
  first = await engine.timelines.bringIn(place)
  await drain(engine)
})
afterAll(async () => {
  await engine.close()
  remove()
})

it('is the same when it was only copied', async () => {
  utimesSync(file, 1_000_001, 1_000_001)
  await expect(engine.timelines.bringIn(place)).rejects.toMatchObject({ problem: { code: 'timeline.same-name' } })
  const again = await engine.timelines.bringIn(place, { name: 'copied' })
  expect(again.fingerprint.content).toBe(first.fingerprint.content)
  expect(again.fingerprint.modified).not.toBe(first.fingerprint.modified)
})

it('is another version when a byte between the samples is another, and is measured anew', async () => {
  mend(1_000_002)
  expect((await fingerprintOf(file)).samples).toBe(first.fingerprint.samples)
  const next = await engine.timelines.bringIn(place)
  expect([next.name, next.fingerprint.content === first.fingerprint.content]).toEqual(['mix v2', false])
  expect((await engine.viewing.analysis(next)).progress).toBe(0)
  await drain(engine)
  expect(await loudness(next)).not.toEqual(await loudness(first))
})

it('stays what an earlier edition called it, while its times are those', async () => {
  const { samples, modified, size } = await fingerprintOf(file)
  const older = { size, modified, content: samples! }
  const rows = engine.db.updateTable('timeline').set({ fingerprint: JSON.stringify(older) })
  await rows.where('name', '=', 'mix v2').execute()
  await engine.timelines.rename(first.id, 'first')
  const again = await engine.timelines.bringIn(place, { name: 'again' })
  expect(again.fingerprint.content).toBe(older.content)
})
