// R′, G′, B′ through a look-up table; the plain reference is ../table.ts. All places are bytes.

/** The colour that is on its way. */
export let red: f64 = 0
export let green: f64 = 0
export let blue: f64 = 0

function number(list: usize, i: i32): f64 {
  return load<f64>(list + <usize>(i << 3))
}

// the built-in least and most weigh what is no number, which takes longer than all the rest
function within(v: f64, low: f64, high: f64): f64 {
  return v < low ? low : v > high ? high : v
}

function placed(v: f64, low: f64, scale: f64, count: f64): f64 {
  return within((v - low) * scale, 0, count - 1)
}

function curve(t: usize, i: i32, v: f64): f64 {
  const count = number(t, 0)
  const x = placed(v, number(t, 1 + i), number(t, 4 + i), count)
  const first = min(floor(x), count - 2)
  const p = 7 + i * <i32>count + <i32>first
  const a = number(t, p)
  return a + (number(t, p + 1) - a) * (x - first)
}

function weighed(p: usize, weight: f32): v128 {
  return f32x4.mul(v128.load(p), f32x4.splat(weight))
}

function grid(t: usize, grids: usize): void {
  const size = <usize>number(t, 0)
  const head = grids + 4 * <usize>number(t, 1)
  let v = f32x4.splat(<f32>red)
  v = f32x4.replace_lane(v, 1, <f32>green)
  v = f32x4.replace_lane(v, 2, <f32>blue)
  const x = f32x4.mul(f32x4.sub(v, v128.load(head)), v128.load(head, 16))
  const inside = f32x4.pmin(f32x4.pmax(x, f32x4.splat(0)), v128.load(head, 32))
  const first = f32x4.pmin(f32x4.floor(inside), v128.load(head, 48))
  const part = f32x4.sub(inside, first)
  const place = i32x4.trunc_sat_f32x4_s(first)
  const G = 16 * size
  const R = G * size
  const B: usize = 16
  const p =
    head +
    64 +
    <usize>i32x4.extract_lane(place, 0) * R +
    <usize>i32x4.extract_lane(place, 1) * G +
    <usize>i32x4.extract_lane(place, 2) * B
  const r = f32x4.extract_lane(part, 0)
  const g = f32x4.extract_lane(part, 1)
  const b = f32x4.extract_lane(part, 2)
  // the two that are more, and which of them is first
  const byGreen = g > r
  const more = byGreen ? g : r
  const less = byGreen ? r : g
  const moreStep = byGreen ? G : R
  const lessStep = byGreen ? R : G
  const last = b <= less
  const firstOfAll = b > more
  const high = firstOfAll ? b : more
  const middle = firstOfAll ? more : last ? less : b
  const low = last ? b : less
  const highStep = firstOfAll ? B : moreStep
  const middleStep = highStep + (firstOfAll ? moreStep : last ? lessStep : B)
  const near = f32x4.add(weighed(p, 1 - high), weighed(p + highStep, high - middle))
  const c = f32x4.add(f32x4.add(near, weighed(p + middleStep, middle - low)), weighed(p + R + G + B, low))
  red = f32x4.extract_lane(c, 0)
  green = f32x4.extract_lane(c, 1)
  blue = f32x4.extract_lane(c, 2)
}

/** Takes a colour through a table; what comes out stands in {@link red}, {@link green}, {@link blue}. */
export function throughTable(table: usize, grids: usize, r: f64, g: f64, b: f64): void {
  red = r
  green = g
  blue = b
  let at: i32 = 1
  for (let n = <i32>number(table, 0); n > 0; n--) {
    const kind = <i32>number(table, at)
    const t = table + <usize>((at + 2) << 3)
    if (kind == 0) {
      const x = red
      const y = green
      const z = blue
      red = number(t, 0) * x + number(t, 1) * y + number(t, 2) * z + number(t, 3)
      green = number(t, 4) * x + number(t, 5) * y + number(t, 6) * z + number(t, 7)
      blue = number(t, 8) * x + number(t, 9) * y + number(t, 10) * z + number(t, 11)
    } else if (kind == 1) {
      const low = number(t, 0)
      const high = number(t, 1)
      red = within(red, low, high)
      green = within(green, low, high)
      blue = within(blue, low, high)
    } else if (kind == 2) {
      red = curve(t, 0, red)
      green = curve(t, 1, green)
      blue = curve(t, 2, blue)
    } else grid(t, grids)
    at += 2 + <i32>number(table, at + 1)
  }
}
