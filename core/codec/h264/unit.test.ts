import { expect, it } from 'vitest'
import { unitFault } from './unit'

// an AVCDecoderConfigurationRecord with lengths of four bytes and no parameter sets
const configuration = Uint8Array.of(1, 100, 0, 31, 0xff, 0xe0, 0)
const nal = (type: number, ...rest: number[]) => [0, 0, 0, rest.length + 1, type, ...rest]
const fault = (bytes: number[], sync: boolean) => unitFault(Uint8Array.from(bytes), sync, configuration)

it('finds nothing in whole access units', () => {
  expect(fault([...nal(9, 16), ...nal(0x67, 1), ...nal(0x65, 1, 2), ...nal(0x65, 3)], true)).toBeNull()
  expect(fault(nal(0x41, 1, 2, 3), false)).toBeNull()
})

it.each([
  ['cut off', nal(0x41, 1, 2, 3).slice(0, -1), false, 'longer'],
  ['bytes at the end', [...nal(0x41, 1), 0, 0], false, 'ends within'],
  ['an empty unit', [...nal(0x41, 1), 0, 0, 0, 0], false, 'empty'],
  ['the forbidden bit', nal(0xc1, 1), false, 'forbidden'],
  ['no slice', nal(6, 1), false, 'no slice'],
  ['nothing', [], true, 'no slice'],
  ['both kinds', [...nal(0x41, 1), ...nal(0x65, 1)], true, 'two kinds'],
  ['a sync sample that is none', nal(0x41, 1), true, 'cannot begin'],
  ['one that is not said to be', nal(0x65, 1), false, 'lean'],
] as const)('tells of %s', (_, bytes, sync, why) => {
  expect(fault([...bytes], sync)).toContain(why)
})
