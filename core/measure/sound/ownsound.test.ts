import { expect, it } from 'vitest'
import type { OwnSound } from '../../analysis/ownsound'
import { ownSound } from './ownsound'

const read = (own: OwnSound | null) => ownSound.read({ ownSound: own })!
const stretch = (from: number) => ({ in: from, out: from + 0.1 })

it('says how the sound of a file compares with the timeline’s, and never better than it is', () => {
  const texts = (
    [
      null,
      { is: 'own', by: 'samples' },
      { is: 'own', by: 'bytes' },
      { is: 'own', by: 'likeness', likeness: 0.9999 },
      { is: 'shifted', late: 0.0213 },
      { is: 'shifted', late: -0.04 },
      { is: 'level', channel: 1, decibels: -3.02 },
      { is: 'other', channels: [0, 1], where: [stretch(1)] },
      { is: 'other', channels: [1], where: [1, 2, 3, 4].map(stretch), likeness: -0.2 },
      { is: 'other', channels: [1], where: [stretch(0), stretch(2)], as: 'turned over', likeness: -1 },
      { is: 'other', channels: [0, 1], where: [stretch(1)], as: { channel: 0, holds: 1 } },
    ] satisfies (OwnSound | null)[]
  ).map((own) => [read(own).value, read(own).text])
  expect(texts).toEqual([
    ['none', 'no sound'],
    ['own', 'the timeline’s own, sample by sample'],
    ['own', 'the source’s own, as it is coded'],
    ['own', 'the timeline’s own (likeness 0.99)'],
    ['shifted', '21.3 ms late'],
    ['shifted', '40.0 ms early'],
    ['level', '3.0 dB softer than the timeline’s own in channel 2'],
    ['other', 'not the timeline’s own in channels 1 and 2, 1.0 s to 1.1 s'],
    [
      'other',
      'not the timeline’s own in channel 2, 1.0 s to 1.1 s, 2.0 s to 2.1 s, 3.0 s to 3.1 s and 1 more ' +
        '(likeness 0.00; 0.50 at least)',
    ],
    ['other', 'not the timeline’s own in channel 2, 0.0 s to 0.1 s and 2.0 s to 2.1 s, turned over'],
    ['other', 'not the timeline’s own in channels 1 and 2, 1.0 s to 1.1 s: channel 1 has what belongs in channel 2'],
  ])
  expect(ownSound.read({})).toBeNull()
})
