import { expect, it } from 'vitest'
import type { SoundFacts } from '../../analysis/soundfacts'
import { statedLoudness } from './statedloudness'

const facts: SoundFacts = {
  ...{ integrated: -23.104, range: 5, truePeak: -3, momentaryMax: -20, shortTermMax: -21 },
  ...{ peaks: [-3, -3], pairs: [], others: [], untold: [] },
}
const read = (loudness: number | null, sound?: SoundFacts) =>
  statedLoudness.read({ stated: { loudness }, ...(sound ? { sound } : {}) })

it.each([
  [null, 'none', 'the file states none'],
  [-23.1, 'as measured', '−23.1 LUFS, as measured'],
  [-22.9, 'as measured', '−22.9 LUFS, as measured'],
  [-22.89, 'otherwise', '−22.9 LUFS, and measured is −23.1 LUFS'],
  [-23.31, 'otherwise', '−23.3 LUFS, and measured is −23.1 LUFS'],
  [-16, 'otherwise', '−16.0 LUFS, and measured is −23.1 LUFS'],
])('of a file that states %s LUFS: %s', (stated, value, text) => {
  expect(read(stated, facts)).toEqual({ value, text })
})

it('is not passed where the sound is not known, and fails of silence', () => {
  const counted = { ...facts, coded: { channels: [0], counted: true } }
  for (const sound of [undefined, { ...facts, integrated: null }, counted]) expect(read(-23, sound)?.value).toBeNull()
  expect(read(-23, { ...facts, integrated: null, truePeak: null })?.value).toBe('otherwise')
  expect(statedLoudness.read({ sound: facts })).toBeNull()
})
