import { Writer } from '../core/bytes'
import { cdp, channelPacket } from '../core/media/captions/samples'
import type { Packet } from '../core/media/packet'
import { makeRate } from '../core/time/rate'

// Elements of ancillary packets as files have them (SMPTE ST 436-1), for tests.

/** A packet of words. */
export const packet = (did: number, sdid: number, ...words: number[]): Packet => ({
  ...{ did, sdid },
  words: Uint8Array.from(words),
})
/** CEA-708 captions of a frame at 25 a second, whose first service says a letter of its own. */
export const captions = (n: number) =>
  packet(0x61, 0x01, ...cdp(makeRate(25), n, channelPacket(1, [0x41 + (n % 26)], n % 4)))
/** A timecode, which is of no matter here. */
export const timecode = packet(0x60, 0x60, 1, 2, 3, 4)
/** The active format 10 of 16:9. */
export const activeFormat = packet(0x41, 0x05, 0b0101_0100, 0, 0, 0, 0, 0, 0, 0)

/** Eight bits with the parity and its opposite above them (ST 291-1 6). */
function tenBits(v: number): number {
  const parity = v.toString(2).replaceAll('0', '').length % 2
  return v | (parity << 8) | ((1 - parity) << 9)
}

/** The samples of a packet in bytes of 8 bits, or three of 10 bits in four bytes. */
function payloadOf(samples: readonly number[], bits: 8 | 10): Uint8Array {
  if (bits === 8) return Uint8Array.from({ length: Math.ceil(samples.length / 4) * 4 }, (_, i) => samples[i] ?? 0)
  const w = new Writer()
  for (let i = 0; i < samples.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => (i + k < samples.length ? tenBits(samples[i + k]!) : 0)) as [
      number,
      number,
      number,
    ]
    w.u32(a * 2 ** 22 + b * 2 ** 12 + c * 4)
  }
  return w.bytes()
}

/** An element of packets in the lines of luma from the ninth on. */
export function elementOf(packets: readonly Packet[], bits: 8 | 10 = 8): Uint8Array {
  const w = new Writer().u16(packets.length)
  packets.forEach(({ did, sdid, words }, i) => {
    const samples = [did, sdid, words.length, ...words]
    const payload = payloadOf(samples, bits)
    w.u16(9 + i)
      .u8(1)
      .u8(bits === 8 ? 4 : 7)
    w.u16(samples.length).u32(payload.length).u32(1).raw(payload)
  })
  return w.bytes()
}
