import { expect, it } from 'vitest'
import { flacPacketLength } from './packet'

it.each([
  ['192', [0x1c, 0x18, 0], 192],
  ['a power of two of 144', [0x5c, 0x18, 0], 4608],
  ['a power of two', [0xcc, 0x18, 0x7f], 4096],
  ['eight bits', [0x6c, 0x18, 0x05, 0xbf], 192],
  ['sixteen bits behind a number of two bytes', [0x7c, 0x18, 0xc2, 0x80, 0x0d, 0x53], 3412],
  ['sixteen bits behind a number of seven bytes', [0x7c, 0x18, 0xfe, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0, 9], 10],
  ['a reserved size', [0x0c, 0x18, 0], null],
])('a FLAC frame tells its samples by %s (RFC 9639 9.1.1)', (_, head, samples) => {
  expect(flacPacketLength(Uint8Array.from([0xff, 0xf8, ...head, 0, 0]))).toBe(samples)
})

it('what is no FLAC frame tells none', () => {
  expect(flacPacketLength(Uint8Array.of(0xff, 0xf0, 0x1c, 0x18, 0))).toBeNull()
  expect(flacPacketLength(Uint8Array.of(0xff, 0xf8))).toBeNull()
})
