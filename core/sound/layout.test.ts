import { expect, it } from 'vitest'
import { asDecoded, frontPair, pairsIn, inUsualOrder, layoutTaken, layoutWord, mixesIn, saidLayout } from './layout'

const track = (layout: string | null, channels = layout?.split(' ').length ?? 1) => ({ channels, layout })
const mono = (...names: (string | null)[]) => names.map((name) => track(name, 1))

it.each([
  ['one track as it says', [track('L C R Ls Rs LFE')], undefined, 'L C R Ls Rs LFE'],
  ['pairs one after the other', [track('L R'), track('L R'), track('L R')], undefined, 'L R L R L R'],
  ['tracks of one channel each', mono('L', 'R', 'C', 'LFE', 'Ls', 'Rs'), undefined, 'L R C LFE Ls Rs'],
  ['mono tracks are called a centre and are none', mono('C', 'C', 'C'), undefined, null],
  ['beside a pair as well', [track('L R'), ...mono('C', 'C')], undefined, 'L R ? ?'],
  ['a track that says nothing beside one that does', [track('L R'), track(null, 6)], undefined, 'L R ? ? ? ? ? ?'],
  ['a layout of another count is none', [track('L R', 6)], undefined, null],
  ['what is taken, silence included', [track('L R C LFE Ls Rs')], [2, -1, 0], 'C ? L'],
  ['silence alone', [track('L R')], [-1, -1], null],
])('channels are named: %s', (_, tracks, route, layout) => expect(saidLayout(tracks, route)).toBe(layout))

it('one channel is mono and two are a pair, whichever they are of; of more it counts what is said', () => {
  const film = [track('L C R Ls Rs LFE')]
  expect(layoutTaken(film, [0])).toBe('C')
  expect(layoutTaken(film, [1, 1])).toBe('L R')
  expect(layoutTaken(film)).toBe('L C R Ls Rs LFE')
  expect(layoutTaken(mono(null, null, null, null, null, null))).toBe('L R C LFE Ls Rs')
  expect(layoutTaken(mono(null, null, null))).toBeNull()
})

it('mixes are told apart where a channel comes again, a downmix beside its surround included', () => {
  const names = (layout: string) => mixesIn(layout).map((mix) => mix.map((c) => `${c.at}${c.name}`).join(' '))
  expect(names('L R L R')).toEqual(['0L 1R', '2L 3R'])
  expect(names('L R C LFE Ls Rs Lt Rt')).toEqual(['0L 1R 2C 3LFE 4Ls 5Rs', '6L 7R'])
  expect(names('L R ? C L R')).toEqual(['0L 1R 3C', '2?', '4L 5R'])
})

it.each([
  [0, null, 'silent'],
  [1, 'C', 'mono'],
  [2, 'L R', 'stereo'],
  [3, 'L R C', '3.0'],
  [6, 'L C R Ls Rs LFE', '5.1'],
  [8, 'L R C LFE Ls Rs Rls Rrs', '7.1'],
  [6, 'L R L R L R', '6ch'],
  [4, '? ? L R', '4ch'],
  [8, null, '8ch'],
])('%i channels in a word: %s', (channels, layout, word) => expect(layoutWord(channels, layout)).toBe(word))

it.each([
  ['L R C LFE Ls Rs', [0, 1]],
  ['L C R Ls Rs LFE', [0, 2]],
  ['C ? Lt Rt', [2, 3]],
  ['C LFE', [0, 1]],
  [null, [0, 1]],
])('left and right of %s', (layout, pair) => expect(frontPair(layout)).toEqual(pair))

it.each<[string, number, string | null, (readonly [number, number])[]]>([
  ['a pair', 2, null, [[0, 1]]],
  ['a surround, whose sides are none', 6, 'L R C LFE Ls Rs', [[0, 1]]],
  [
    'pairs',
    6,
    'L R L R L R',
    [
      [0, 1],
      [2, 3],
      [4, 5],
    ],
  ],
  [
    'a surround in another order, and its downmix',
    8,
    'L C R Ls Rs LFE Lt Rt',
    [
      [0, 2],
      [6, 7],
    ],
  ],
  [
    'four of which nothing is said',
    4,
    null,
    [
      [0, 1],
      [2, 3],
    ],
  ],
  [
    'a pair and two that nobody names',
    4,
    'L R ? ?',
    [
      [0, 1],
      [2, 3],
    ],
  ],
  ['three', 3, null, [[0, 1]]],
])('pairs of %s', (_, channels, layout, pairs) => expect(pairsIn(channels, layout)).toEqual(pairs))

it('a mix is put in the order of EBU R 123, what that does not know behind it', () => {
  const order = (layout: string) => inUsualOrder(mixesIn(layout)[0]!).map((c) => c.at)
  expect(order('L C R Ls Rs LFE')).toEqual([0, 2, 1, 5, 3, 4])
  expect(order('Rls C L R LFE Ls Rs Rrs')).toEqual([2, 3, 1, 4, 5, 6, 0, 7])
})

it('coded channels are as decoders give them, not as they are coded', () => {
  expect(asDecoded('C L R Ls Rs LFE')).toBe('L R C LFE Ls Rs')
  expect(asDecoded('L R Ls Rs C')).toBe('L R C Ls Rs')
  expect(asDecoded('L R C LFE Ls Rs Rls Rrs')).toBeNull()
  expect(asDecoded(null)).toBeNull()
})
