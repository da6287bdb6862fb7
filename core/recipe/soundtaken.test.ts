import { expect, it } from 'vitest'
import type { AudioInfo } from '../media/media'
import type { Problem } from '../problem'
import { soundTaken } from './soundtaken'
import type { RecipeSettings } from './settings'

const surround = 'L R C LFE Ls Rs'
const track = (layout: string | null, channels = layout?.split(' ').length ?? 1): AudioInfo => ({
  ...{ codec: 'pcm', sampleRate: 48_000, bitDepth: 24, samples: 1, webCodec: null },
  ...{ channels, layout },
})

function taken(
  settings: Pick<RecipeSettings, 'channels' | 'downmix'>,
  ...audio: readonly AudioInfo[]
): { written: string; problems: string[]; notes: string[] } {
  const [problems, notes]: [Problem[], string[]] = [[], []]
  const { channels, layout, downmix } = soundTaken(settings, { audio }, problems, notes).written
  const made = downmix ? ` from ${downmix.from}` : ''
  return { written: `${channels} ${layout}${made}`, problems: problems.map((p) => p.message), notes }
}

it.each([
  ['its own surround', track(surround), 'all', 'stereo', `2 L R from ${surround}`],
  ['film’s order', track('L C R Ls Rs LFE'), 'all', 'mono', '1 C from L C R Ls Rs LFE'],
  ['a pair to mono', track('L R'), 'all', 'mono', '1 C from L R'],
  ['mono to a pair', track('C'), 'all', 'stereo', '2 L R from C'],
  ['what is stereo already', track('L R'), 'all', 'stereo', '2 L R'],
  ['two that are no pair', track(surround), [3, 4], 'mono', '1 C from C LFE'],
  ['left and right that are not', track(surround), [2, 1], 'stereo', '2 L R from R L'],
  ['one of them alone', track(surround), [1], 'stereo', '2 L R from C'],
  ['the same twice', track('L R'), [1, 1], 'mono', '1 C from L R'],
  ['what is left as it is', track(surround), 'all', 'none', `6 ${surround}`],
  ['no sound', track(surround), 'none', 'stereo', '0 null'],
] as const)('brings together %s', (_, audio, channels, downmix, written) => {
  const t = taken({ channels: typeof channels === 'string' ? channels : [...channels], downmix }, audio)
  expect([t.written, t.problems]).toEqual([written, []])
  expect(t.notes).toEqual(written.includes('from') ? [expect.stringContaining('ITU-R BS.775')] : [])
})

it('says that the LFE is left out, and that six channels of which nobody says which is which are taken as 5.1', () => {
  const six = Array.from({ length: 6 }, () => track(null, 1))
  const { written, notes } = taken({ channels: 'all', downmix: 'stereo' }, ...six)
  expect(written).toBe(`2 L R from ${surround}`)
  expect(notes).toEqual([
    `Nothing says which of its 6 channels is which: they are taken as ${surround}.`,
    `${surround} is brought together to stereo (ITU-R BS.775); the LFE is left out.`,
  ])
})

it('refuses what is no one mix, until one is chosen', () => {
  const both = [track(surround), track('L R')]
  const { written, problems } = taken({ channels: 'all', downmix: 'stereo' }, ...both)
  expect(written).toBe(`8 ${surround} L R`)
  expect(problems).toEqual([`Its 8 channels are ${surround} L R: that is no mix to bring together.`])
  expect(taken({ channels: [1, 2, 3, 4, 5, 6], downmix: 'stereo' }, ...both).problems).toEqual([])
  expect(taken({ channels: 'all', downmix: 'stereo' }, track(null, 3)).problems).toEqual([
    'Its 3 channels are not named: that is no mix to bring together.',
  ])
})
