import { expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { soundMeter } from './sound'

const rate = makeRate(25)

/** The facts of two channels: one is a wave, the other what is made of it. */
function measured(other: (v: number, i: number) => number) {
  const meter = soundMeter({ channels: 2, sampleRate: 48000, rate }, 'L R')
  const wave = Float32Array.from({ length: 48000 }, (_, i) => 0.3 * Math.sin(i / 9) + 0.1 * Math.sin(i / 31))
  meter.feed([wave, wave.map(other)])
  return meter.result().pairs[0]!
}

it('two channels are the same where what they differ by is 60 dB under them, whatever level they have', () => {
  const noise = (level: number) => (v: number, i: number) => v * (1 + level * Math.SQRT2 * (i % 2 ? 1 : -1))
  expect(measured((v) => v)).toMatchObject({ alike: true, correlation: expect.closeTo(1, 6) as number })
  expect(measured(noise(10 ** (-70 / 20))).alike).toBe(true)
  expect(measured(noise(10 ** (-50 / 20))).alike).toBe(false)
  // half as loud, turned, and silent: not the same
  for (const factor of [0.5, -1, 0]) expect(measured((v) => v * factor).alike).toBe(false)
})
