// The caption channel of digital television (CTA-708): which of its services say something.

/** Bytes that follow a code of the first sets, by the code (CTA-708 7.1). */
function following(code: number): number {
  if (code >= 0x18 && code <= 0x1f) return 2
  if (code >= 0x10 && code <= 0x17) return 1
  if (code >= 0x88 && code <= 0x8d) return 1
  if (code === 0x90 || code === 0x92) return 2
  if (code === 0x91) return 3
  if (code === 0x97) return 4
  return code >= 0x98 && code <= 0x9f ? 6 : 0
}

/** The same of codes behind `EXT1`, which are of the further sets. */
function followingFar(code: number): number {
  if (code < 0x20) return code >> 3
  return code >= 0x80 && code <= 0x8f ? 4 + ((code >> 3) & 1) : 0
}

const isLetter = (code: number) => (code > 0x20 && code < 0x80) || code >= 0xa0
const [farther, wide] = [0x10, 0x18]

/** Counts the letters in what a service says, which may go on from one block to the next. */
function letters(letter: () => void) {
  let skip = 0
  let far = false
  return (byte: number) => {
    if (skip > 0) skip--
    else if (far) {
      far = false
      if (isLetter(byte)) letter()
      skip = followingFar(byte)
    } else if (byte === farther) far = true
    else {
      if (isLetter(byte) || byte === wide) letter()
      skip = following(byte)
    }
  }
}

/** Follows the channel; letters, but for spaces, are told by service: `S1` to `S63`. */
export function captionChannel(letter: (service: string) => void) {
  const services = new Map<number, (byte: number) => void>()
  let packet: number[] = []
  let size = 0
  const open = () => size > 0 && packet.length < size
  const blocks = () => {
    for (let at = 1; at < size;) {
      const head = packet[at++]!
      const length = head & 31
      let service = head >> 5
      if (service === 7 && length > 0) service = packet[at++]! & 63
      if (service === 0) return
      const told = services.get(service) ?? letters(() => letter(`S${service}`))
      services.set(service, told)
      for (const byte of packet.slice(at, Math.min(at + length, size))) told(byte)
      at += length
    }
  }
  return {
    /** Takes two bytes in, with which a packet may begin; false where the one before breaks off. */
    feed([a, b]: readonly [number, number], begins: boolean): boolean {
      const whole = !begins || !open()
      if (begins) {
        packet = []
        size = a & 63 ? (a & 63) * 2 : 128
      } else if (!open()) return true
      packet.push(a, b)
      if (!open()) blocks()
      return whole
    },
  }
}
