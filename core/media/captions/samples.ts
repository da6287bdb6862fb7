import type { Rate } from '../../time/rate'
import { pairsAt, rateCode, type CaptionPair } from './cdp'

// Caption packets as another house writes them, for tests.

/** A byte of line 21 with odd parity above its seven bits. */
export const odd = (v: number): number => {
  const ones = v.toString(2).replaceAll('0', '').length
  return ones % 2 === 1 ? v : v | 0x80
}

/** A pair of a field of line 21. */
export const line = (field: 0 | 1, a: number, b: number): CaptionPair => ({ type: field, bytes: [odd(a), odd(b)] })

/** A packet of the caption channel in which a service says bytes, in pairs. */
export function channelPacket(service: number, said: readonly number[], sequence = 0): CaptionPair[] {
  const head = service < 7 ? [(service << 5) | said.length] : [(7 << 5) | said.length, service]
  const body = [...head, ...said]
  if (body.length % 2 === 0) body.push(0)
  const packet = [(sequence << 6) | ((body.length + 1) / 2), ...body]
  return Array.from({ length: packet.length / 2 }, (_, i) => ({
    type: i === 0 ? 3 : 2,
    bytes: [packet[2 * i]!, packet[2 * i + 1]!],
  }))
}

/** A caption distribution packet that is filled up to the room of its rate (SMPTE ST 334-2). */
export function cdp(rate: Rate, sequence: number, pairs: readonly CaptionPair[] = []): Uint8Array {
  const code = rateCode(rate)!
  const room = pairsAt(code)!
  const filled = Array.from({ length: room }, (_, i) => {
    const pair = pairs[i]
    return pair ? [0xfc | pair.type, ...pair.bytes] : [0xf8 | 2, 0, 0]
  })
  const count = [sequence >> 8, sequence & 255]
  const timecode = [0x71, 0xc0, 0x80, 0x80, 0x80]
  const services = [0x73, 0xd1, 0xe1, 0x65, 0x6e, 0x67, 0xc1, 0x7f, 0xff]
  const body = [0xf7, ...count, ...timecode, 0x72, 0xe0 | room, ...filled.flat(), ...services, 0x74, ...count]
  const bytes = [0x96, 0x69, body.length + 5, (code << 4) | 15, ...body]
  const sum = bytes.reduce((n, b) => n + b, 0)
  return Uint8Array.from([...bytes, (256 - (sum % 256)) % 256])
}

/** Bytes of letters. */
export const lettersOf = (text: string): number[] => [...text].map((c) => c.charCodeAt(0))

/** A coded picture with captions in a message of H.264, or in user data of MPEG-2; `picture` stands behind them. */
export function pictureWith(
  pairs: readonly CaptionPair[],
  escaped: boolean,
  picture: readonly number[] = [0x65, 0x88],
): Uint8Array {
  const said = [0xc0 | pairs.length, 0xff, ...pairs.flatMap((p) => [0xfc | p.type, ...p.bytes]), 0xff]
  const front = escaped ? [0, 0, 1, 6, 4, said.length + 8, 0xb5, 0, 0x31] : [0, 0, 1, 0xb2]
  const body: number[] = []
  for (const b of [...lettersOf('GA94'), 3, ...said]) {
    if (escaped && b <= 3 && body.at(-1) === 0 && body.at(-2) === 0) body.push(3)
    body.push(b)
  }
  return Uint8Array.from([...front, ...body, 0x80, 0, 0, 1, ...picture])
}
