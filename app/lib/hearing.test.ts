import { expect, it } from 'vitest'
import type { AudioInfo } from '../../core/media/media'
import { channelText, hearable, heardChannels, soundText } from './hearing'

const timeline = (codec: string, ...layouts: (string | null)[]) => {
  const audio = layouts.map((layout): AudioInfo => ({
    ...{ codec, channels: layout?.split(' ').length ?? 1, sampleRate: 48_000, bitDepth: 24, samples: 1 },
    ...{ layout, webCodec: null },
  }))
  return { assembled: false, info: { audio } } as unknown as Parameters<typeof heardChannels>[0]
}

it('left and right are heard first, wherever they stand', () => {
  expect(heardChannels(timeline('pcm', 'L C R Ls Rs LFE'))).toEqual([0, 2, 1, 3, 4, 5])
  expect(heardChannels(timeline('pcm', null, null, null))).toEqual([0, 1, 2])
  expect(heardChannels(timeline('pcm', 'C'))).toEqual([0])
  expect(heardChannels(timeline('pcm'))).toEqual([])
  expect(heardChannels(timeline('ac-3', 'L R'))).toEqual([])
})

it('a channel is called what its file says it is', () => {
  const film = timeline('pcm', 'L C R Ls Rs LFE')
  expect([channelText(film, 1), channelText(film, 5)]).toEqual(['Channel 2 (C)', 'Channel 6 (LFE)'])
  expect(channelText(timeline('pcm', null), 0)).toBe('Channel 1')
})

it('more than two channels are told with what they are', () => {
  const of = (...layouts: (string | null)[]) => soundText(timeline('pcm', ...layouts).info, true)
  expect(of('L R')).toBe('2 × PCM 48 kHz')
  expect(of('L C R Ls Rs LFE')).toBe('6 × PCM 48 kHz, L C R Ls Rs LFE')
  expect(of('L R', null)).toBe('3 × PCM 48 kHz, L R –')
  expect(of(null, null, null)).toBe('3 × PCM 48 kHz')
})

it('a mix in surround is heard as a whole, of others left and right', () => {
  const usual = (...layouts: (string | null)[]) => hearable(timeline('pcm', ...layouts)).usual
  expect(usual('L C R Ls Rs LFE', 'L R')).toEqual([0, 1, 2, 3, 4])
  expect(usual('L R', 'L R')).toEqual([0, 1])
  expect(usual(null, null, null)).toEqual([0, 1])
  expect(usual('C')).toEqual([0])
  expect(hearable(timeline('ac-3', 'L R C LFE Ls Rs')).usual).toEqual([])
})
