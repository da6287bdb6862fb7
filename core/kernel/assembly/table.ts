// R′, G′, B′ through a look-up table, four colours at a time; the plain reference is ../table.ts, and floats of 32 bits
// are worked out as there. All places are bytes.

function number(list: usize, i: i32): f32 {
  return <f32>load<f64>(list + <usize>(i << 3))
}

function splat(list: usize, i: i32): v128 {
  return f32x4.splat(number(list, i))
}

// what is no number does not come here: those that choose are faster than least and most
function within(v: v128, low: v128, high: v128): v128 {
  return f32x4.pmin(f32x4.pmax(v, low), high)
}

function row(m: usize, i: i32, r: v128, g: v128, b: v128): v128 {
  const two = f32x4.add(f32x4.mul(splat(m, i), r), f32x4.mul(splat(m, i + 1), g))
  return f32x4.add(f32x4.add(two, f32x4.mul(splat(m, i + 2), b)), splat(m, i + 3))
}

function matrix(m: usize, r: usize, g: usize, b: usize, width: i32): void {
  for (let x = 0; x < width; x += 4) {
    const at = <usize>(x << 2)
    const p = v128.load(r + at)
    const q = v128.load(g + at)
    const o = v128.load(b + at)
    v128.store(r + at, row(m, 0, p, q, o))
    v128.store(g + at, row(m, 4, p, q, o))
    v128.store(b + at, row(m, 8, p, q, o))
  }
}

function clamp(t: usize, line: usize, width: i32): void {
  const low = splat(t, 0)
  const high = splat(t, 1)
  for (let x = 0; x < width; x += 4) {
    const at = line + <usize>(x << 2)
    v128.store(at, within(v128.load(at), low, high))
  }
}

function curve(t: usize, i: i32, line: usize, width: i32): void {
  const count = <i32>number(t, 0)
  const low = number(t, 1 + i)
  const scale = number(t, 4 + i)
  const end = <f32>(count - 1)
  const points = t + <usize>((7 + i * count) << 3)
  for (let x = 0; x < width; x++, line += 4) {
    const v = (load<f32>(line) - low) * scale
    const place: f32 = v < 0 ? <f32>0 : v > end ? end : v
    const first = min(<i32>place, count - 2)
    const a = number(points, first)
    store<f32>(line, a + (number(points, first + 1) - a) * (place - <f32>first))
  }
}

/** A curve over half floats, whose list is 32-bit numbers by the bits of a half. */
function halves(list: usize, line: usize, width: i32): void {
  for (let x = 0; x < width; x++, line += 4) {
    const v = load<f32>(line)
    const a = abs(v)
    const size: f32 = a > 65504 ? <f32>65504 : a
    let first: i32
    let part: f32
    if (size >= <f32>0.00006103515625) {
      const bits = reinterpret<i32>(size) - 0x38000000
      first = bits >> 13
      part = <f32>(bits & 8191) * <f32>0.0001220703125
    } else {
      const place = size * <f32>16777216
      first = <i32>place
      part = place - <f32>first
    }
    const from = v < 0 ? list + 0x20000 : list
    const p = load<f32>(from + <usize>(first << 2))
    store<f32>(line, p + (load<f32>(from + <usize>(min(first + 1, 0x7bff) << 2)) - p) * part)
  }
}

/** Four weights of four colours, where each one's first point is, and how far on its second and its third are. */
const weights: usize = memory.data(64, 16)
const places: usize = memory.data(48, 16)

/** A colour of four, from the four points around it. */
function colour(points: usize, last: usize, lane: i32): v128 {
  const at = <usize>(lane << 2)
  const p = points + <usize>load<u32>(places + at)
  const w = weights + at
  const near = f32x4.add(
    f32x4.mul(v128.load(p), v128.load32_splat(w)),
    f32x4.mul(v128.load(p + <usize>load<u32>(places + at, 16)), v128.load32_splat(w, 16)),
  )
  const third = f32x4.mul(v128.load(p + <usize>load<u32>(places + at, 32)), v128.load32_splat(w, 32))
  return f32x4.add(f32x4.add(near, third), f32x4.mul(v128.load(p + last), v128.load32_splat(w, 48)))
}

function placed(head: usize, i: i32, v: v128): v128 {
  const at = head + <usize>(i << 2)
  const x = f32x4.mul(f32x4.sub(v, v128.load32_splat(at)), v128.load32_splat(at, 16))
  return within(x, f32x4.splat(0), v128.load32_splat(at, 32))
}

function grid(t: usize, grids: usize, r: usize, g: usize, b: usize, width: i32): void {
  const head = grids + 4 * <usize>number(t, 1)
  const size = <i32>number(t, 0)
  const B = 16
  const G = B * size
  const R = G * size
  const ends = v128.load32_splat(head, 48)
  const points = head + 64
  for (let x = 0; x < width; x += 4) {
    const at = <usize>(x << 2)
    const placeR = placed(head, 0, v128.load(r + at))
    const placeG = placed(head, 1, v128.load(g + at))
    const placeB = placed(head, 2, v128.load(b + at))
    const firstR = f32x4.pmin(f32x4.floor(placeR), ends)
    const firstG = f32x4.pmin(f32x4.floor(placeG), ends)
    const firstB = f32x4.pmin(f32x4.floor(placeB), ends)
    const first = i32x4.add(
      i32x4.add(
        i32x4.mul(i32x4.trunc_sat_f32x4_s(firstR), i32x4.splat(R)),
        i32x4.mul(i32x4.trunc_sat_f32x4_s(firstG), i32x4.splat(G)),
      ),
      i32x4.mul(i32x4.trunc_sat_f32x4_s(firstB), i32x4.splat(B)),
    )
    v128.store(places, first)
    weigh(f32x4.sub(placeR, firstR), f32x4.sub(placeG, firstG), f32x4.sub(placeB, firstB), R, G, B)
    const last = <usize>(R + G + B)
    const c0 = colour(points, last, 0)
    const c1 = colour(points, last, 1)
    const c2 = colour(points, last, 2)
    const c3 = colour(points, last, 3)
    const a = v128.shuffle<i32>(c0, c1, 0, 4, 1, 5)
    const d = v128.shuffle<i32>(c2, c3, 0, 4, 1, 5)
    v128.store(r + at, v128.shuffle<i64>(a, d, 0, 2))
    v128.store(g + at, v128.shuffle<i64>(a, d, 1, 3))
    v128.store(
      b + at,
      v128.shuffle<i64>(v128.shuffle<i32>(c0, c1, 2, 6, 2, 6), v128.shuffle<i32>(c2, c3, 2, 6, 2, 6), 0, 2),
    )
  }
}

/** Of four colours, which of red, green and blue is further on in its cube, and what each of four points weighs. */
function weigh(r: v128, g: v128, b: v128, R: i32, G: i32, B: i32): void {
  const byGreen = f32x4.gt(g, r)
  const more = v128.bitselect(g, r, byGreen)
  const less = v128.bitselect(r, g, byGreen)
  const moreStep = v128.bitselect(i32x4.splat(G), i32x4.splat(R), byGreen)
  const lessStep = v128.bitselect(i32x4.splat(R), i32x4.splat(G), byGreen)
  // then where the third stands
  const atEnd = f32x4.le(b, less)
  const atFront = f32x4.gt(b, more)
  const high = v128.bitselect(b, more, atFront)
  const middle = v128.bitselect(more, v128.bitselect(less, b, atEnd), atFront)
  const least = v128.bitselect(b, less, atEnd)
  const highStep = v128.bitselect(i32x4.splat(B), moreStep, atFront)
  const next = v128.bitselect(moreStep, v128.bitselect(lessStep, i32x4.splat(B), atEnd), atFront)
  v128.store(places, highStep, 16)
  v128.store(places, i32x4.add(highStep, next), 32)
  v128.store(weights, f32x4.sub(f32x4.splat(1), high))
  v128.store(weights, f32x4.sub(high, middle), 16)
  v128.store(weights, f32x4.sub(middle, least), 32)
  v128.store(weights, least, 48)
}

/** Takes lines of red, green and blue, numbers of 32 bits, through a table, in place: stage by stage. */
export function throughTable(table: usize, grids: usize, r: usize, g: usize, b: usize, width: i32): void {
  let at: i32 = 1
  for (let n = <i32>number(table, 0); n > 0; n--) {
    const kind = <i32>number(table, at)
    const t = table + <usize>((at + 2) << 3)
    if (kind == 0) matrix(t, r, g, b, width)
    else if (kind == 1) {
      clamp(t, r, width)
      clamp(t, g, width)
      clamp(t, b, width)
    } else if (kind == 2) {
      curve(t, 0, r, width)
      curve(t, 1, g, width)
      curve(t, 2, b, width)
    } else if (kind == 3) grid(t, grids, r, g, b, width)
    else {
      const list = grids + 4 * <usize>number(t, 0)
      halves(list, r, width)
      halves(list + 0x40000, g, width)
      halves(list + 0x80000, b, width)
    }
    at += 2 + <i32>load<f64>(table + <usize>((at + 1) << 3))
  }
}
