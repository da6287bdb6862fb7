import { expect, it } from 'vitest'
import type { AudioInfo, MediaInfo } from '../../media/media'
import { recipeKind } from '../../recipe/registry'
import type { Channels } from '../../sound/layout'
import { possible } from './possible'

const track = (codec: string, channels: number): AudioInfo => ({
  ...{ codec, channels, sampleRate: 48_000, bitDepth: 24, samples: 1, layout: null, webCodec: null },
})
const media = { audio: [track('pcm', 2), track('ac-3', 6)] } as unknown as MediaInfo
const recipe = recipeKind({ kind: 'master' }).shipped
const fixOf = (channels: Channels, value = false, of = media) =>
  possible.fix!({
    ...{ expect: { equals: true }, source: null, media: of },
    recipe: { ...recipe, channels: typeof channels === 'string' ? channels : [...channels] },
    forecast: { value, text: '', from: '' },
  })

it('leaves out channels that nobody reads, where others are left', () => {
  expect([fixOf('all'), fixOf([2, 5, 0, 1])]).toEqual([{ channels: [1, 2] }, { channels: [2, 0, 1] }])
})
it('leaves out channels that are not there, and gives mono to both of a pair', () => {
  const mono = { audio: [track('pcm', 1)] } as unknown as MediaInfo
  expect([fixOf([1, 2], false, mono), fixOf([1, 2, 3], false, mono)]).toEqual([{ channels: [1, 1] }, { channels: [1] }])
  expect([fixOf([2, 3], false, mono), fixOf([1], false, mono)]).toEqual([null, null])
  const closed = { audio: [track('ac-3', 1)] } as unknown as MediaInfo
  expect(fixOf([1, 2], false, closed)).toBeNull()
})
it('has no plain fix where that is not what is in the way', () => {
  expect([fixOf([1, 2]), fixOf([3, 4]), fixOf([3, 0]), fixOf('none'), fixOf('all', true)]).toEqual(Array(5).fill(null))
  const list = { audio: [{ ...track('pcm', 2), codecs: ['pcm', 'ac-3'] }] } as unknown as MediaInfo
  expect(fixOf('all', false, list)).toBeNull()
})
