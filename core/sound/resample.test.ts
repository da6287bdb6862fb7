import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { resampled } from './resample'

const folder = mkdtempSync(path.join(tmpdir(), 'velvet-resample-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const source = (sampleRate: number, x: Float32Array) => ({
  sampleRate,
  async read(from: number, count: number) {
    return [Float32Array.from({ length: count }, (_, i) => x[from + i] ?? 0)]
  },
})
const tone = (sampleRate: number, hertz: number, samples: number) =>
  Float32Array.from({ length: samples }, (_, i) => 0.5 * Math.sin((2 * Math.PI * hertz * i) / sampleRate))
const decibels = (x: number) => 20 * Math.log10(Math.max(1e-12, x))
/** The loudest difference of two sounds, away from their ends, in dB of full scale. */
const apart = (a: Float32Array, b: Float32Array) => {
  let most = 0
  for (let i = 2000; i < Math.min(a.length, b.length) - 2000; i++) most = Math.max(most, Math.abs(a[i]! - b[i]!))
  return decibels(most)
}
const pairs = [
  [44100, 48000],
  [48000, 44100],
  [48000, 96000],
  [96000, 44100],
  [32000, 48000],
  [22051, 48000],
] as const

describe.each(pairs)('from %d to %d', (from, to) => {
  const band = Math.min(from, to) / 2
  it.each([100, 997, 0.5 * band, 0.9 * band])(
    'a tone of %d Hz comes out as that tone at the other rate',
    async (hertz) => {
      const [out] = await resampled(source(from, tone(from, hertz, from)), to).read(0, to)
      expect(apart(out!, tone(to, hertz, to))).toBeLessThan(-110)
    },
  )
  it('is the same read in parts of any length', async () => {
    const sound = resampled(source(from, tone(from, 0.31 * band, from)), to)
    const [whole] = await sound.read(0, 9000)
    const parts: number[] = []
    for (let at = 0, n = 1; at < 9000; at += n, n = ((n * 7) % 1999) + 1)
      parts.push(...(await sound.read(at, Math.min(n, 9000 - at)))[0]!)
    expect(Float32Array.from(parts)).toEqual(whole)
  })
  it('lets a steady level through as it is', async () => {
    const [out] = await resampled(source(from, new Float32Array(from).fill(0.25)), to).read(2000, 500)
    for (const v of out!) expect(Math.abs(v - 0.25)).toBeLessThan(1e-7)
  })
})

it('what the lower rate cannot hold does not come back as another tone', async () => {
  for (const hertz of [22_100, 26_000, 30_000, 40_000]) {
    const [out] = await resampled(source(96000, tone(96000, hertz, 96000)), 44100).read(2000, 40_000)
    const most = out!.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
    expect(decibels(most)).toBeLessThan(-105)
  }
})

it.skipIf(spawnSync('sox', ['--version']).error)('sox makes the same of a chord of tones', async () => {
  for (const [from, to] of pairs.slice(0, 4)) {
    const chord = tone(from, 440, from * 2)
    for (const hertz of [1500, 6000, 11_000]) tone(from, hertz, from * 2).forEach((v, i) => (chord[i]! += v * 0.3))
    writeFileSync(path.join(folder, 'in.f32'), Buffer.from(chord.buffer))
    const raw = (rate: number, file: string) => ['-t', 'f32', '-r', String(rate), '-c', '1', path.join(folder, file)]
    execFileSync('sox', [...raw(from, 'in.f32'), ...raw(to, 'out.f32'), 'rate', '-v'])
    const bytes = readFileSync(path.join(folder, 'out.f32'))
    const theirs = new Float32Array(bytes.buffer, bytes.byteOffset, bytes.length / 4)
    const [ours] = await resampled(source(from, chord), to).read(0, to * 2)
    expect(Math.abs(theirs.length - ours!.length)).toBeLessThanOrEqual(1)
    expect(apart(ours!, theirs)).toBeLessThan(-100)
  }
})
