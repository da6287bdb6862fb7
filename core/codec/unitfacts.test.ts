import { describe, expect, it } from 'vitest'
import { memorySource } from '../bytes'
import { lettersOf, line, pictureWith } from '../media/captions/samples'
import type { VideoTrack } from '../media/media'
import { isAlone as aloneOfMpeg2 } from './mpeg2/headers'
import { unitFacts } from './unitfacts'

/** First slices of pictures of H.264: one decoding begins at, one by itself, one that leans on others. */
const [idr, intra, leaning] = [
  [0x65, 0x88],
  [0x41, 0x88],
  [0x41, 0x98],
]

/** A track of these units, which are shown in another order than they are decoded in. */
function trackOf(units: readonly Uint8Array[], order: readonly number[], codec = 'h264') {
  const offset = (i: number) => units.slice(0, i).reduce((n, u) => n + u.length, 0)
  const track = {
    ...{ info: { frames: units.length, codec }, sampleCount: units.length, configuration: null },
    sampleOfFrame: (n: number) => order.indexOf(n),
    sample: (i: number) => ({ offset: offset(i), size: units[i]!.length }),
  } as unknown as VideoTrack
  return [memorySource(Buffer.concat(units)), track, { in: 0, out: units.length }] as const
}

describe('coded pictures', () => {
  it('have captions in the order they are shown, each with its own', async () => {
    const text = lettersOf('Low tide')
    const shown = [
      [line(0, 0x14, 0x25)],
      ...[0, 2, 4, 6].map((i) => [line(0, text[i]!, text[i + 1]!)]),
      [line(0, 0x1c, 0x25)],
      [line(0, 0x41, 0x42)],
    ]
    const order = [0, 4, 2, 1, 3, 6, 5]
    const units = order.map((n) => pictureWith(shown[n]!, true))
    expect((await unitFacts(...trackOf(units, order))).captions).toEqual({
      ...{ frames: 7, letters: { CC1: 7, CC2: 2 }, faults: [] },
    })
    const bare = [Uint8Array.of(0, 0, 1, ...idr!)]
    expect(await unitFacts(...trackOf(bare, [0]))).toEqual({ captions: null, leaning: { frames: 0, untold: 0 } })
  })

  it('lean on others or do not, by what their slices say', async () => {
    const of = async (...pictures: readonly number[][]) => {
      const units = pictures.map((p) => Uint8Array.of(0, 0, 1, 9, 0x10, 0, 0, 1, ...p))
      const order = units.map((_, i) => i)
      return (await unitFacts(...trackOf(units, order))).leaning!
    }
    expect(await of(idr!, intra!, intra!)).toEqual({ frames: 0, untold: 0 })
    expect((await of(idr!, leaning!, intra!, leaning!)).frames).toBe(2)
    // the second of its slices
    expect((await of(idr!, [...intra!, 0, 0, 1, ...leaning!])).frames).toBe(1)
    expect(await of(leaning!, [0x06, 0x80])).toEqual({ frames: 1, untold: 1 })
  })

  it('are not told of codecs whose pictures do not say', async () => {
    const units = [Uint8Array.of(1, 2, 3)]
    expect((await unitFacts(...trackOf(units, [0], 'v210'))).leaning).toBeNull()
  })

  it('of MPEG-2 are told by every picture of a frame of fields', () => {
    const field = (type: number) => [0, 0, 1, 0, 0, type << 3, 0, 0]
    expect([[1], [1, 1], [1, 2], [3], []].map((t) => aloneOfMpeg2(Uint8Array.from(t.flatMap(field))))).toEqual([
      ...[true, true, false, false, null],
    ])
  })
})
