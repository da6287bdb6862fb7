import { runAt, tokenAt, zerosAt } from './tables'

// Reading of a slice's bits; the plain reference is SliceReader of codec/h264-intra/slicebits.ts. What makes no sense
// is a fault, by the number of the syntax element (codec/h264-intra/fastdecode.ts names them); nothing is read after
// one.

let bytes: usize = 0
let at: i32 = 0
let end: i32 = 0
export let fault: i32 = 0
const levels: usize = memory.data(64, 16)

/** Begins at a bit of a payload of so many bytes, behind which are eight noughts. */
export function begin(place: usize, size: i32, bit: i32): void {
  bytes = place
  at = bit
  end = size * 8
  fault = 0
}

/** The bit that is read next. */
export function intraPlace(): i32 {
  return at
}

export function over(): bool {
  return at > end
}

export function blame(element: i32): void {
  if (fault == 0) fault = element
}

function peek(n: i32): u32 {
  if (at > end) return 0
  return (bswap<u32>(load<u32>(bytes + <usize>(at >> 3))) << (at & 7)) >> (32 - n)
}

/** At most 25 bits. */
export function u(n: i32): i32 {
  if (n == 0) return 0
  const v = peek(n)
  at += n
  return <i32>v
}

/** Noughts before a one, at most 31; a fault when there are more. */
function zerosBefore(element: i32): i32 {
  const near = peek(25)
  if (near) {
    const few = <i32>clz<u32>(near) - 7
    at += few + 1
    return few
  }
  let zeros = 0
  while (u(1) == 0) {
    zeros++
    if (zeros > 31 || at > end) {
      blame(element)
      return 0
    }
  }
  return zeros
}

export function ue(): i32 {
  const zeros = zerosBefore(1)
  if (zeros == 0) return 0
  if (zeros > 24) {
    blame(1)
    return 0
  }
  return (1 << zeros) - 1 + u(zeros)
}

export function se(): i32 {
  const k = ue()
  return k & 1 ? (k + 1) >> 1 : -(k >> 1)
}

export function align(): void {
  at = (at + 7) & ~7
}

/** Reads a block of at most `most` coefficients; `table` as for writing. Gives how many are not nought. */
export function block(out: usize, scan: usize, first: i32, most: i32, table: i32): i32 {
  const coded = tokenAt(table, peek(16))
  if (coded == 0 || at > end) {
    blame(2)
    return 0
  }
  at += coded & 31
  const total = <i32>(coded >> 7)
  const ones = <i32>((coded >> 5) & 3)
  if (total == 0) return 0
  if (total > most) {
    blame(2)
    return 0
  }
  readLevels(total, ones)
  if (fault) return 0
  let left = 0
  if (total < most) {
    const z = zerosAt(table < 4 ? 0 : table - 3, total, peek(9))
    at += z & 31
    left = <i32>(z >> 5)
    if (z == 0 || left + total > most) {
      blame(3)
      return 0
    }
  }
  let place = first + total + left - 1
  for (let i = 0; i < total; i++) {
    store<i32>(out + ((<usize>load<u8>(scan + <usize>place)) << 2), load<i32>(levels + <usize>(i << 2)))
    if (left > 0 && i < total - 1) {
      const r = runAt(min(left, 7), peek(11))
      at += r & 31
      const run = <i32>(r >> 5)
      if (r == 0 || run > left) {
        blame(4)
        return 0
      }
      left -= run
      place -= run
    }
    place--
  }
  return total
}

function readLevels(total: i32, ones: i32): void {
  for (let i = 0; i < ones; i++) store<i32>(levels + <usize>(i << 2), u(1) ? -1 : 1)
  let suffix = total > 10 && ones < 3 ? 1 : 0
  for (let i = ones; i < total; i++) {
    const prefix = zerosBefore(5)
    if (prefix > 25) blame(5)
    if (fault) return
    let code = min(15, prefix) << suffix
    const size = prefix == 14 && suffix == 0 ? 4 : prefix >= 15 ? prefix - 3 : suffix
    code += u(size)
    if (prefix >= 15 && suffix == 0) code += 15
    if (prefix >= 16) code += (1 << (prefix - 3)) - 4096
    if (i == ones && ones < 3) code += 2
    const v = (code & 1) == 0 ? (code + 2) >> 1 : (-code - 1) >> 1
    store<i32>(levels + <usize>(i << 2), v)
    if (suffix == 0) suffix = 1
    if (abs(v) > 3 << (suffix - 1) && suffix < 6) suffix++
  }
}
