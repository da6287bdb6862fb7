import { describe, expect, it } from 'vitest'
import { escapeNal } from '../bits'
import { concatBytes, memorySource, Writer } from '../bytes'
import { pictureEntry } from '../container/mp4/entrywriter'
import { movieHead } from '../container/mp4/write'
import { openMedia } from '../container/registry'
import type { Colour } from '../media/media'
import { avcUnits, countedUnits, hevcUnits, nalUnits } from './nal'
import { messagesIn } from './supplemental'

/** A unit of messages: each its type, its size and what it holds (H.264 7.3.2.3). */
const messages = (header: readonly number[], ...list: readonly (readonly [type: number, payload: number[]])[]) => {
  const body = new Writer()
  for (const [type, payload] of list) {
    for (let left = type; ; left -= 255) {
      body.u8(Math.min(255, left))
      if (left < 255) break
    }
    body.u8(payload.length).raw(Uint8Array.from(payload))
  }
  return concatBytes([Uint8Array.from(header), escapeNal(body.u8(0x80).bytes())])
}
const avc = [6]
const hevc = [39 << 1, 1]

describe('messages of a picture', () => {
  it('are told apart by type, in units of either kind, behind lengths or start codes', () => {
    const long: [number, number[]] = [300, [0, 0, 1]]
    const unit = messages(avc, [5, [1, 2]], long, [147, [18]])
    const found = messagesIn([Uint8Array.of(0x65, 1, 2), unit], avcUnits)
    expect([...found].map(([type, bytes]) => [type, [...bytes]])).toEqual([
      [5, [1, 2]],
      [300, [0, 0, 1]],
      [147, [18]],
    ])
    expect([...messagesIn([messages(hevc, [147, [18]])], hevcUnits).keys()]).toEqual([147])
    expect(messagesIn([messages(hevc, [147, [18]])], avcUnits).size).toBe(0)
    const stream = concatBytes([Uint8Array.of(0, 0, 1), unit, Uint8Array.of(0, 0, 0, 1, 0x65, 9)])
    expect(messagesIn(nalUnits(stream, null, avcUnits), avcUnits).size).toBe(3)
  })
  it('of a unit that breaks off are those that are there', () => {
    expect([...messagesIn([Uint8Array.of(6, 147)], avcUnits)]).toEqual([])
    expect([...messagesIn([Uint8Array.of(6, 47, 200, 1, 2)], avcUnits).get(47)!]).toEqual([1, 2])
    expect(countedUnits(Uint8Array.of(0, 1, 7, 0, 9, 1), 2)).toEqual({ units: [Uint8Array.of(7)], brokenAt: 5 })
  })
})

const avcC = Uint8Array.from(
  Buffer.from('01640028ffe1001867640028acb403c0113f2c20000003002000000651e3065401000468ef3cb0', 'hex'),
)
const sdr: Colour = { primaries: 9, transfer: 14, matrix: 9, fullRange: false }

/** A film of one picture that begins with a unit of messages, placed in a track that may be turned. */
async function film(unit: Uint8Array, quarter = false) {
  const shape = { width: 1920, height: 1080, pixelAspect: '1:1', colour: sdr, scan: 'progressive' as const }
  const sample = new Writer().u32(unit.length).raw(unit).u32(2).u16(0x6588).bytes()
  const head = movieHead({
    brand: 'mp4',
    dataSize: sample.length,
    tracks: [
      {
        ...{ kind: 'video', timescale: 25, width: 1920, height: 1080, durations: { constant: 1 } },
        sampleEntry: pictureEntry('avc1', { ...shape, configuration: avcC }, 'avcC', 'mp4'),
        ...{ sizes: Uint32Array.of(sample.length), chunks: [{ offset: 0, samples: 1 }] },
      },
    ],
  })
  const bytes = concatBytes([head, sample])
  const matrix = [0, 65536, 0, -65536, 0, 0, 0, 0].reduce((w, v) => w.i32(v), new Writer()).bytes()
  if (quarter) bytes.set(matrix, Buffer.from(bytes).indexOf('tkhd') + 4 + 52)
  const { info } = await openMedia(memorySource(bytes, 'a.mp4'))
  return { ...info.video[0]!, said: info.problems.map((p) => p.code) }
}

describe('messages in the first picture of a file', () => {
  it('that prefer another transfer are gone by, and what its headers say is told', async () => {
    const v = await film(messages(avc, [147, [18]]))
    expect([v.colour, v.statedTransfer, v.said]).toEqual([{ ...sdr, transfer: 18 }, 14, ['media.preferred-transfer']])
    const same = await film(messages(avc, [147, [14]]))
    expect([same.colour, same.statedTransfer, same.said]).toEqual([sdr, undefined, []])
  })
  const orientation = (cancelled: number, across: number, down: number, left = 0) =>
    [47, new Writer().u24(((((cancelled << 2) | (across << 1) | down) << 16) | left) << 5).bytes()] as const
  it.each([
    ['a quarter to the left', orientation(0, 0, 0, 0x4000), { turned: 270 }],
    ['half around', orientation(0, 0, 0, 0x8000), { turned: 180 }],
    ['half around, by both sides', orientation(0, 1, 1), { turned: 180 }],
    ['left for right', orientation(0, 1, 0), { mirrored: true }],
    ['above for below', orientation(0, 0, 1), { mirrored: true, turned: 180 }],
    ['nothing any more', orientation(1, 1, 0), undefined],
    // an identity of 0, not cancelled, type 3
    ['two views side by side', [45, Uint8Array.of(0b10000001, 0b10000000)], { twoViews: true }],
    ['one view', [45, Uint8Array.of(0b10000011, 0)], undefined],
  ] as const)('that have players show %s', async (_, [type, payload], wanted) => {
    const v = await film(messages(avc, [type, [...payload]]))
    expect(v.presentation).toEqual(wanted)
    expect(v.said).toEqual(wanted ? ['media.presentation'] : [])
  })
  it('leave what the track says of the same in force', async () => {
    expect((await film(messages(avc, [47, [...orientation(0, 0, 1)[1]]]), true)).presentation).toEqual({ turned: 90 })
  })
})
