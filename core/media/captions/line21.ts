// Captions of line 21 (CTA-608): which of its channels say something.

/** What a code does to what follows it. */
const captionModes = new Set([0x20, 0x25, 0x26, 0x27, 0x29])
const textModes = new Set([0x2a, 0x2b])

const isOdd = (byte: number): boolean => {
  let bits = byte
  bits ^= bits >> 4
  bits ^= bits >> 2
  bits ^= bits >> 1
  return (bits & 1) === 1
}

/** Follows one of the two fields; letters, but for spaces, are told by channel: `CC1` to `CC4`, `T1` to `T4`. */
export function line21(field: 0 | 1, letter: (channel: string) => void) {
  let channel: 0 | 1 = 0
  const modes: ('CC' | 'T')[] = ['CC', 'CC']
  /** Within data of the programme (XDS), which is no captions. */
  let programmeData = false
  const said = () => letter(`${modes[channel]}${1 + channel + 2 * field}`)
  return {
    /** Takes two bytes in; false where their parity is not right. */
    feed([first, second]: readonly [number, number]): boolean {
      if (!isOdd(first) || !isOdd(second)) return false
      const [a, b] = [first & 0x7f, second & 0x7f]
      if (a >= 0x20) {
        if (!programmeData) for (const c of [a, b]) if (c > 0x20) said()
        return true
      }
      if (a < 0x10) {
        // its end is said by 0F; nought is nothing at all
        if (a > 0) programmeData = a !== 0x0f
        return true
      }
      programmeData = false
      channel = a & 8 ? 1 : 0
      const code = a & 0x77
      if ((code & 0x76) === 0x14 && captionModes.has(b)) modes[channel] = 'CC'
      else if ((code & 0x76) === 0x14 && textModes.has(b)) modes[channel] = 'T'
      else if (code === 0x11 && b >= 0x30 && b <= 0x3f) said()
      else if ((code === 0x12 || code === 0x13) && b >= 0x20 && b <= 0x3f) said()
      return true
    },
  }
}
