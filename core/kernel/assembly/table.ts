// R′, G′, B′ through a look-up table; the plain reference is ../table.ts. All places are bytes.

function number(list: usize, i: i32): f64 {
  return load<f64>(list + <usize>(i << 3))
}

// the built-in least and most weigh what is no number, which takes longer than all the rest
function within(v: f64, low: f64, high: f64): f64 {
  return v < low ? low : v > high ? high : v
}

function matrix(t: usize, line: usize, width: i32): void {
  const m0 = number(t, 0)
  const m1 = number(t, 1)
  const m2 = number(t, 2)
  const m3 = number(t, 3)
  const m4 = number(t, 4)
  const m5 = number(t, 5)
  const m6 = number(t, 6)
  const m7 = number(t, 7)
  const m8 = number(t, 8)
  const m9 = number(t, 9)
  const m10 = number(t, 10)
  const m11 = number(t, 11)
  for (let x = 0; x < width; x++, line += 24) {
    const r = load<f64>(line)
    const g = load<f64>(line, 8)
    const b = load<f64>(line, 16)
    store<f64>(line, m0 * r + m1 * g + m2 * b + m3)
    store<f64>(line, m4 * r + m5 * g + m6 * b + m7, 8)
    store<f64>(line, m8 * r + m9 * g + m10 * b + m11, 16)
  }
}

function clamp(t: usize, line: usize, width: i32): void {
  const low = number(t, 0)
  const high = number(t, 1)
  for (let i = 0; i < 3 * width; i++, line += 8) store<f64>(line, within(load<f64>(line), low, high))
}

function curve(t: usize, i: i32, line: usize, width: i32): void {
  const count = number(t, 0)
  const low = number(t, 1 + i)
  const scale = number(t, 4 + i)
  const points = t + <usize>((7 + i * <i32>count) << 3)
  for (let x = 0; x < width; x++, line += 24) {
    const place = within((load<f64>(line) - low) * scale, 0, count - 1)
    const first = min(<i32>place, <i32>count - 2)
    const a = number(points, first)
    store<f64>(line, a + (number(points, first + 1) - a) * (place - <f64>first))
  }
}

function weighed(p: usize, weight: f32): v128 {
  return f32x4.mul(v128.load(p), f32x4.splat(weight))
}

function grid(t: usize, grids: usize, line: usize, width: i32): void {
  const head = grids + 4 * <usize>number(t, 1)
  const low = v128.load(head)
  const scale = v128.load(head, 16)
  const most = v128.load(head, 32)
  const last = v128.load(head, 48)
  const zero = f32x4.splat(0)
  const B: usize = 16
  const G = B * <usize>number(t, 0)
  const R = G * <usize>number(t, 0)
  const points = head + 64
  for (let x = 0; x < width; x++, line += 24) {
    const pair = f32x4.demote_f64x2_zero(v128.load(line))
    const v = f32x4.replace_lane(pair, 2, <f32>load<f64>(line, 16))
    const place = f32x4.pmin(f32x4.pmax(f32x4.mul(f32x4.sub(v, low), scale), zero), most)
    const first = f32x4.pmin(f32x4.floor(place), last)
    const part = f32x4.sub(place, first)
    const p =
      points +
      <usize>f32x4.extract_lane(first, 0) * R +
      <usize>f32x4.extract_lane(first, 1) * G +
      <usize>f32x4.extract_lane(first, 2) * B
    const r = f32x4.extract_lane(part, 0)
    const g = f32x4.extract_lane(part, 1)
    const b = f32x4.extract_lane(part, 2)
    // the one that is further on of two, then where the third stands
    const byGreen = g > r
    const more = byGreen ? g : r
    const less = byGreen ? r : g
    const moreStep = byGreen ? G : R
    const lessStep = byGreen ? R : G
    const atEnd = b <= less
    const atFront = b > more
    const high = atFront ? b : more
    const middle = atFront ? more : atEnd ? less : b
    const least = atEnd ? b : less
    const highStep = atFront ? B : moreStep
    const middleStep = highStep + (atFront ? moreStep : atEnd ? lessStep : B)
    const near = f32x4.add(weighed(p, 1 - high), weighed(p + highStep, high - middle))
    const c = f32x4.add(f32x4.add(near, weighed(p + middleStep, middle - least)), weighed(p + R + G + B, least))
    v128.store(line, f64x2.promote_low_f32x4(c))
    store<f64>(line, f32x4.extract_lane(c, 2), 16)
  }
}

/** Takes a line of colours, three numbers of 64 bits each, through a table, in place: stage by stage. */
export function throughTable(table: usize, grids: usize, line: usize, width: i32): void {
  let at: i32 = 1
  for (let n = <i32>number(table, 0); n > 0; n--) {
    const kind = <i32>number(table, at)
    const t = table + <usize>((at + 2) << 3)
    if (kind == 0) matrix(t, line, width)
    else if (kind == 1) clamp(t, line, width)
    else if (kind == 2) for (let i = 0; i < 3; i++) curve(t, i, line + <usize>(8 * i), width)
    else grid(t, grids, line, width)
    at += 2 + <i32>number(table, at + 1)
  }
}
