import { describe, expect, it } from 'vitest'
import { makeRate } from '../../time/rate'
import { readCdp, type CaptionPair } from './cdp'
import { captionMeter } from './meter'
import { cdp, channelPacket, lettersOf, line } from './samples'

const rate = makeRate(30000, 1001)

/** What is found in frames that have these pairs, a packet each. */
function metered(frames: readonly (readonly CaptionPair[])[]) {
  const meter = captionMeter(rate)
  frames.forEach((pairs, n) => meter.feed([cdp(rate, 65_530 + n - (n > 5 ? 65_536 : 0), pairs)], n))
  return meter.result()!
}
const lettersIn = (...frames: readonly CaptionPair[][]) => metered(frames).letters
const text = (field: 0 | 1, s: string) =>
  lettersOf(s.padEnd(s.length + (s.length % 2), '\0')).flatMap((a, i, all) =>
    i % 2 ? [] : [line(field, a, all[i + 1]!)],
  )

describe('a caption distribution packet', () => {
  const bytes = cdp(rate, 700, [line(0, 0x41, 0x42)])
  it('is read with its time, captions and services', () =>
    expect(readCdp(bytes)).toEqual({
      ...{ rate: 4, sequence: 700, room: 20 },
      pairs: [{ type: 0, bytes: [0xc1, 0xc2] }],
    }))
  it.each([24, 25, 30, 50, 60])('is as long as its rate says: %d', (fps) =>
    expect(readCdp(cdp(makeRate(fps), 1))!.room! * fps).toBe(600),
  )
  it('is none with any byte changed, or cut anywhere', () => {
    for (let i = 0; i < bytes.length; i++) {
      expect(readCdp(bytes.map((b, k) => (k === i ? b ^ 1 : b)))).toBeNull()
      expect(readCdp(bytes.subarray(0, i))).toBeNull()
    }
  })
})

describe('line 21', () => {
  it('says something in the channel that its last code names', () => {
    expect(lettersIn([line(0, 0x14, 0x25), ...text(0, 'Low water')])).toEqual({ CC1: 8 })
    expect(lettersIn([line(0, 0x1c, 0x25), ...text(0, 'tide')], [line(0, 0x14, 0x20)], text(0, 'fog!'))).toEqual({
      ...{ CC2: 4, CC1: 4 },
    })
    expect(lettersIn([line(1, 0x15, 0x29), ...text(1, 'La marea')])).toEqual({ CC3: 7 })
  })
  it('knows text from captions, and neither from what is said of the programme', () => {
    expect(lettersIn([line(0, 0x14, 0x2a), ...text(0, 'page')])).toEqual({ T1: 4 })
    expect(lettersIn([line(1, 0x01, 0x03), ...text(1, 'Fog Bell'), line(1, 0x0f, 0x1d)])).toEqual({})
    expect(lettersIn([line(1, 0x01, 0x03), ...text(1, 'Fo')], [line(1, 0x15, 0x25), ...text(1, 'ok')])).toEqual({
      CC3: 2,
    })
  })
  it('has letters beyond ASCII, and codes that are none', () => {
    expect(lettersIn([line(0, 0x11, 0x37), line(0, 0x12, 0x21), line(0, 0x13, 0x3f)])).toEqual({ CC1: 3 })
    expect(lettersIn([line(0, 0x14, 0x2c), line(0, 0x11, 0x2e), line(0, 0x17, 0x21), line(0, 0, 0)])).toEqual({})
  })
  it('is told where its parity is wrong', () => {
    const wrong = { type: 0, bytes: [0x41, 0x42] } as const
    expect(metered([[], [wrong], [wrong, wrong]]).faults).toEqual([{ fault: 'parity', frames: 2, at: 1 }])
  })
})

describe('the caption channel', () => {
  it('says something in services of any number', () => {
    expect(lettersIn(channelPacket(1, lettersOf('Low water')))).toEqual({ S1: 8 })
    expect(lettersIn(channelPacket(9, lettersOf('mar')))).toEqual({ S9: 3 })
  })
  it('has codes with bytes of their own, which are no letters, also from one packet to the next', () => {
    const window = [0x98, 0x41, 0x42, 0x43, 0x44, 0x45, 0x46]
    expect(lettersIn(channelPacket(1, [...window, 0x97, 1, 2, 3, 0x41, 0x90, 0x41, 0x41, 0x92, 0x41, 0x41]))).toEqual(
      {},
    )
    expect(lettersIn(channelPacket(1, window.slice(0, 3)), channelPacket(1, [...window.slice(3), 0x5a], 1))).toEqual({
      S1: 1,
    })
    // letters of two bytes, of the second sets, and their codes
    expect(
      lettersIn(channelPacket(2, [0x18, 0x41, 0x42, 0x10, 0x25, 0x10, 0x1f, 1, 2, 3, 0x10, 0x8f, 1, 2, 3, 4, 5])),
    ).toEqual({ S2: 2 })
  })
  it('goes on over frames, and is told where a packet breaks off', () => {
    const packet = channelPacket(1, lettersOf('Two cars and a cow'))
    expect(lettersIn(packet.slice(0, 4), packet.slice(4))).toEqual({ S1: 14 })
    const broken = metered([packet.slice(0, 4), packet, packet])
    expect([broken.letters, broken.faults]).toEqual([{ S1: 28 }, [{ fault: 'broken-off', frames: 1, at: 1 }]])
  })
})

describe('the packets of a file', () => {
  const fed = (...frames: readonly Uint8Array[][]) => {
    const meter = captionMeter(rate)
    frames.forEach((f, n) => meter.feed(f, n))
    return meter.result()
  }
  it('are whole where each frame has the next, over the end of the count', () => {
    const whole = metered(Array.from({ length: 12 }, () => []))
    expect(whole).toEqual({ frames: 12, letters: {}, faults: [] })
  })
  it('are none where no frame has one', () => expect(fed([], [])).toBeNull())
  it('are told frame by frame where they are not as they should be', () => {
    const damaged = cdp(rate, 3).map((b, i) => (i === 9 ? b ^ 1 : b))
    const found = fed(
      [cdp(rate, 1)],
      [],
      [cdp(rate, 2), cdp(rate, 3)],
      [damaged],
      [cdp(rate, 5)],
      [cdp(rate, 7)],
      [cdp(makeRate(25), 8)],
      [],
    )
    expect(found!.frames).toBe(6)
    expect(found!.faults).toEqual([
      { fault: 'missing', frames: 2, at: 1 },
      { fault: 'several', frames: 1, at: 2 },
      { fault: 'damaged', frames: 1, at: 3 },
      { fault: 'sequence', frames: 1, at: 5 },
      { fault: 'rate', frames: 1, at: 6 },
    ])
  })
})
