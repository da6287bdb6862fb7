import { expect, it } from 'vitest'
import { memorySource } from '../bytes'
import type { CaptionPair } from '../media/captions/cdp'
import { line } from '../media/captions/samples'
import type { VideoTrack } from '../media/media'
import { captionFacts, captionsOf } from './captions'

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

/** A unit with captions in a message of H.264, or in user data of MPEG-2. */
function unitOf(pairs: readonly CaptionPair[], escaped: boolean): Uint8Array {
  const said = [0xc0 | pairs.length, 0xff, ...pairs.flatMap((p) => [0xfc | p.type, ...p.bytes]), 0xff]
  const front = escaped ? bytes(0, 0, 1, 6, 4, said.length + 8, 0xb5, 0, 0x31) : bytes(0, 0, 1, 0xb2)
  const body: number[] = []
  for (const b of [...bytes('GA94', 3), ...said]) {
    if (escaped && b <= 3 && body.at(-1) === 0 && body.at(-2) === 0) body.push(3)
    body.push(b)
  }
  return Uint8Array.from([...front, ...body, 0x80, 0, 0, 1, 0x65, 0x88])
}
const filled: CaptionPair[] = [line(0, 0x14, 0x25), { type: 3, bytes: [0, 0] }, { type: 2, bytes: [0, 1] }]

it.each([true, false])('are read with what is filled, without what keeps start codes out: %s', (escaped) => {
  expect(captionsOf(unitOf(filled, escaped))).toEqual(filled)
  const empty = unitOf(filled, escaped).map((b) => (b === (0xfc | 3) ? 0xf8 | 3 : b))
  expect(captionsOf(empty)).toEqual([filled[0], filled[2]])
})

it('are followed in the order pictures are shown, each with its own', async () => {
  const text = [...'Low tide'].map((c) => c.charCodeAt(0))
  const shown = [
    [line(0, 0x14, 0x25)],
    ...[0, 2, 4, 6].map((i) => [line(0, text[i]!, text[i + 1]!)]),
    [line(0, 0x1c, 0x25)],
    [line(0, 0x41, 0x42)],
  ]
  const order = [0, 4, 2, 1, 3, 6, 5]
  const units = order.map((n) => unitOf(shown[n]!, true))
  const offset = (i: number) => units.slice(0, i).reduce((n, u) => n + u.length, 0)
  const track = {
    ...{ info: { frames: 7 }, sampleCount: 7, sampleOfFrame: (n: number) => order.indexOf(n) },
    sample: (i: number) => ({ offset: offset(i), size: units[i]!.length, pts: 0, sync: true }),
  } as unknown as VideoTrack
  const source = memorySource(Buffer.concat(units))
  expect(await captionFacts(source, track, { in: 0, out: 7 })).toEqual({
    ...{ frames: 7, letters: { CC1: 7, CC2: 2 }, faults: [] },
  })
  const bare = { ...track, sample: () => ({ offset: 0, size: 4, pts: 0, sync: true }) } as unknown as VideoTrack
  expect(await captionFacts(source, bare, { in: 0, out: 7 })).toBeNull()
})
