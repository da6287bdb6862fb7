// Reading of a slice's bits; the plain reference is Bits of codec/mpeg2/bits.ts.

let bytes: usize = 0
let at: i32 = 0
let last: i32 = 0

/** Begins at the first bit of so many bytes. */
export function begin(from: usize, size: i32): void {
  bytes = from
  at = 0
  last = size * 8 + 32
}

/** Whether more was read than there is. */
export function isOver(): bool {
  return at > last
}

/** The next bits, 25 at most. */
export function look(n: i32): i32 {
  const word = bswap<u32>(load<u32>(bytes + <usize>(at >> 3))) << (at & 7)
  return <i32>(word >> (32 - n))
}

export function take(n: i32): i32 {
  if (n == 0) return 0
  const v = look(n)
  at += n
  return v
}

/** No code of a table. */
export const none = -32768

/** What a table (`value << 8 | length`, 0 where there is none) says of the next bits; {@link none}. */
export function code(table: usize, bits: i32): i32 {
  const v = load<i32>(table + ((<usize>look(bits)) << 2))
  at += v & 0xff
  return v == 0 ? none : v >> 8
}
