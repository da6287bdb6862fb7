import { expect, it } from 'vitest'
import type { CaptionPair } from '../media/captions/cdp'
import { line, pictureWith } from '../media/captions/samples'
import { captionsOf } from './captions'

const bytes = (...parts: (string | number)[]) =>
  Uint8Array.from(parts.flatMap((p) => (typeof p === 'number' ? [p] : [...p].map((c) => c.charCodeAt(0)))))

it.each<[string, Uint8Array, boolean]>([
  ['a message of H.264', bytes(0, 0, 0, 1, 6, 4, 71, 0xb5, 0, 0x31, 'GA94', 3, 0xd4, 0xff), true],
  ['user data of MPEG-2', bytes('GA', 0, 0, 1, 0xb2, 'GA94', 3, 0xd4, 0xff), true],
  ['bar data, which goes by the same name', bytes(0, 0, 1, 0xb2, 'GA94', 6, 0xff), false],
  ['a message of somebody else', bytes(6, 4, 71, 0xb5, 0, 0x3c, 'GA94', 3), false],
  ['the name alone, at the beginning', bytes('GA94', 3), false],
  ['no bytes', bytes(), false],
])('captions of %s', (_, unit, there) => expect(captionsOf(unit) !== null).toBe(there))

const filled: CaptionPair[] = [line(0, 0x14, 0x25), { type: 3, bytes: [0, 0] }, { type: 2, bytes: [0, 1] }]

it.each([true, false])('are read with what is filled, without what keeps start codes out: %s', (escaped) => {
  expect(captionsOf(pictureWith(filled, escaped))).toEqual(filled)
  const empty = pictureWith(filled, escaped).map((b) => (b === (0xfc | 3) ? 0xf8 | 3 : b))
  expect(captionsOf(empty)).toEqual([filled[0], filled[2]])
})
