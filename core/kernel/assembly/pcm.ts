// Sound as interleaved integers of 16, 24 and 32 bits; the plain reference is ../pcm.ts. Every part has room behind it.

/** Four samples as the nearest of `full` steps each way, half up; what is beyond full scale is held there. */
function steps(at: usize, full: v128, least: v128, most: v128): v128 {
  const given = f32x4.mul(v128.load(at), full)
  // what is no number is 0
  const scaled = v128.and(given, f32x4.eq(given, given))
  const whole = f32x4.floor(scaled)
  const half = f32x4.ge(f32x4.sub(scaled, whole), f32x4.splat(0.5))
  const near = f32x4.add(whole, v128.and(half, f32x4.splat(1)))
  return i32x4.trunc_sat_f32x4_s(f32x4.pmin(f32x4.pmax(near, least), most))
}

/** An integer as two or three bytes. */
function put(v: i32, at: usize, bytes: i32, little: bool): void {
  if (bytes === 2) store<u16>(at, <u16>(little ? v : bswap<u16>(<u16>v)))
  else if (little) {
    store<u16>(at, <u16>v)
    store<u8>(at, <u8>(v >> 16), 2)
  } else {
    store<u8>(at, <u8>(v >> 16))
    store<u16>(at, bswap<u16>(<u16>v), 1)
  }
}

/** Samples of one channel as three bytes each, the lowest first; those behind the last are room. */
function packOne(from: usize, count: i32, to: usize): void {
  const full = f32x4.splat(8388608)
  const least = f32x4.splat(-8388608)
  const most = f32x4.splat(8388607)
  const end = from + ((<usize>count) << 2)
  let at = to
  for (let own = from; own < end; own += 16) {
    const v = steps(own, full, least, most)
    // what is written behind the twelve is written over by the next four
    v128.store(at, v128.swizzle(v, i8x16(0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1)))
    at += 12
  }
}

/** `count` samples of each channel, one channel every `stride` bytes; of 2 or 3 bytes. */
export function packPcm(
  from: usize,
  stride: i32,
  count: i32,
  channels: i32,
  bytes: i32,
  little: bool,
  to: usize,
): void {
  if (channels === 1 && bytes === 3 && little) {
    packOne(from, count, to)
    return
  }
  const one = <f32>(1 << (8 * bytes - 1))
  const full = f32x4.splat(one)
  const least = f32x4.splat(-one)
  const most = f32x4.splat(one - 1)
  const step = <usize>(bytes * channels)
  for (let c = 0; c < channels; c++) {
    const own = from + <usize>(c * stride)
    let at = to + <usize>(c * bytes)
    for (let i = 0; i < count; i += 4) {
      const v = steps(own + <usize>(i << 2), full, least, most)
      put(i32x4.extract_lane(v, 0), at, bytes, little)
      if (i + 1 < count) put(i32x4.extract_lane(v, 1), at + step, bytes, little)
      if (i + 2 < count) put(i32x4.extract_lane(v, 2), at + 2 * step, bytes, little)
      if (i + 3 < count) put(i32x4.extract_lane(v, 3), at + 3 * step, bytes, little)
      at += 4 * step
    }
  }
}

/** An integer of two, three or four bytes, in the highest bits of 32. */
function high(at: usize, bytes: i32, little: bool): i32 {
  if (bytes === 2) return (<i32>(little ? load<u16>(at) : bswap<u16>(load<u16>(at)))) << 16
  if (bytes === 4) return little ? load<i32>(at) : <i32>bswap<u32>(load<u32>(at))
  if (little) return ((<i32>load<u16>(at)) << 8) | ((<i32>load<u8>(at, 2)) << 24)
  return ((<i32>load<u8>(at)) << 24) | ((<i32>bswap<u16>(load<u16>(at, 1))) << 8)
}

/** Samples of one channel out of three bytes each, the lowest first. */
function unpackOne(from: usize, count: i32, to: usize): void {
  const scale = f32x4.splat(1.0 / 2147483648.0)
  const end = to + ((<usize>count) << 2)
  let at = from
  for (let own = to; own < end; own += 16) {
    const v = v128.swizzle(v128.load(at), i8x16(-1, 0, 1, 2, -1, 3, 4, 5, -1, 6, 7, 8, -1, 9, 10, 11))
    v128.store(own, f32x4.mul(f32x4.convert_i32x4_s(v), scale))
    at += 12
  }
}

/** `count` samples of each channel as numbers of full scale 1, one channel every `stride` bytes. */
export function unpackPcm(
  from: usize,
  count: i32,
  channels: i32,
  bytes: i32,
  little: bool,
  to: usize,
  stride: i32,
): void {
  if (channels === 1 && bytes === 3 && little) {
    unpackOne(from, count, to)
    return
  }
  const scale = f32x4.splat(1.0 / 2147483648.0)
  const step = <usize>(bytes * channels)
  for (let c = 0; c < channels; c++) {
    const own = to + <usize>(c * stride)
    let at = from + <usize>(c * bytes)
    for (let i = 0; i < count; i += 4) {
      let v = i32x4.splat(high(at, bytes, little))
      v = i32x4.replace_lane(v, 1, high(at + step, bytes, little))
      v = i32x4.replace_lane(v, 2, high(at + 2 * step, bytes, little))
      v = i32x4.replace_lane(v, 3, high(at + 3 * step, bytes, little))
      v128.store(own + <usize>(i << 2), f32x4.mul(f32x4.convert_i32x4_s(v), scale))
      at += 4 * step
    }
  }
}
