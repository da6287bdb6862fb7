import { expect, it } from 'vitest'
import type { SoundFacts } from '../../analysis/soundfacts'
import { makeRate } from '../../time/rate'
import { measureOf } from '../registry'

const heard: SoundFacts = {
  ...{ integrated: -23, range: 5, truePeak: -3, momentaryMax: -20, shortTermMax: -21, peaks: [-3, -3, -1, -1] },
  pairs: [
    { channels: [0, 1], correlation: 0.5, alike: false },
    { channels: [2, 3], correlation: 0.7, alike: true },
  ],
  ...{ others: [], untold: [2, 3] },
}
const base = { rate: makeRate(25), dropFrame: false, start: 0 }
const phase = [{ in: 5, out: 40 }]
const read = (name: string, coded?: SoundFacts['coded']) =>
  measureOf(name).read({
    ...{ sound: { ...heard, ...(coded ? { coded } : {}) }, base },
    trouble: { silence: [], clicks: [], dropouts: [], data: [], phase },
  })!
const ofLoudness = ['loudness', 'short-term-loudness', 'momentary-loudness', 'loudness-range']

it('is counted, and named by its channels', () => {
  expect(read('coded-sound')).toMatchObject({ value: 0, text: 'none' })
  expect(read('coded-sound', { channels: [2, 3], counted: false })).toMatchObject({
    ...{ value: 2, text: 'data, not sound, in channels 3 and 4' },
  })
})

it.each(ofLoudness)('leaves %s unmeasured where it counts those channels, and as it is where it does not', (name) => {
  expect(read(name, { channels: [2, 3], counted: false })).toEqual(read(name))
  expect(read(name, { channels: [0, 1], counted: true })).toEqual({
    ...{ value: null, text: 'channels 1 and 2 carry data, not sound (SMPTE ST 337)' },
  })
})

it('has no true peak alone, and no phase where it is in the place of every pair', () => {
  const all = { channels: [0, 1, 2, 3], counted: true }
  expect(read('true-peak', { channels: [0], counted: true }).value).toBe(-3)
  expect(read('true-peak', all).value).toBeNull()
  for (const name of ['phase', 'dual-mono']) {
    expect(read(name, { channels: [1, 2], counted: true }).text).toMatch(/^channels 2 and 3 carry data/)
    expect(read(name, { channels: [1], counted: true }).text).toMatch(/ in channels 3 and 4$|^the same/)
    expect(read(name, { channels: [2], counted: false }).value).not.toBeNull()
  }
  expect([read('sound-faults').value, read('sound-faults', all).value]).toEqual([1, 0])
})
