/** A sample of a plane, of 8 bits in bytes or 10 in 16-bit words. */
export function sample(at: usize, i: i32, bytes: i32): i32 {
  return bytes === 1 ? <i32>load<u8>(at + <usize>i) : <i32>load<u16>(at + <usize>(i << 1))
}
