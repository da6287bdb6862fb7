import { halves } from '../../half'
import type { TableStage } from '../../kernel/table'
import { children, textWithin } from '../../xml'
import { numbersIn, telling, type ListNode } from './clfnode'
import { wrongTable } from './table'

// Nodes of Common LUT Format (SMPTE ST 2136-1) that say a function of each of R′, G′, B′: logarithms, exponents and the
// ASC's colour decision list. Each becomes a curve over half floats.

type Curve = (v: number) => number

/** What a curve may give at most: more is no colour, and less than what numbers of 32 bits hold. */
const most = 1e30
/** What a logarithm is taken of at least: the least number of 32 bits that is a normal one. */
const leastLight = 2 ** -126

/** Curves of R′, G′ and B′, as `curve` has each for what is said of it: what is said of several is worked out once. */
function curves<T>(said: readonly T[], curve: (of: T) => Curve): TableStage {
  const held = (v: number) => Math.max(-most, Math.min(most, v))
  const made = new Map<T, Float32Array>()
  const of = (one: T) => {
    const f = curve(one)
    // the bits of infinities and of what is no number are never looked up
    return Float32Array.from(halves, (v) => (Number.isFinite(v) ? held(f(v)) : 0))
  }
  const points = said.map((one) => {
    const known = made.get(one) ?? of(one)
    made.set(one, known)
    return known
  })
  return { kind: 'halves', points }
}

type Params = Readonly<Record<string, number>>

/** What a node says of R′, G′ and B′, in elements of a name for one of them or for all; null where it says nothing. */
function paramsOf({ element, where }: ListNode, name: string): (Params | null)[] {
  const found: (Params | null)[] = [null, null, null]
  for (const child of children(element.node)) {
    if (telling.has(child.name)) continue
    if (child.name !== name) wrongTable(`“${child.name}” has no place in it.`, where)
    const { channel = '', ...rest } = child.attributes
    const own: Record<string, number> = {}
    for (const [k, v] of Object.entries(rest))
      own[k] = numbersIn(v ?? '', 1, where)[0] ?? wrongTable(`Its ${k} is empty.`, where)
    const of = channel === '' ? [0, 1, 2] : [['R', 'G', 'B'].indexOf(channel)]
    for (const i of of) {
      if (i === -1) wrongTable(`There is no channel “${channel.slice(0, 20)}”.`, where)
      found[i] = own
    }
  }
  if (found.every((p) => p === null)) wrongTable(`It says no ${name}.`, where)
  return found
}

/** Beyond nothing as this side of it. */
const mirrored =
  (f: Curve): Curve =>
  (v) =>
    v < 0 ? -f(-v) : f(v)

/** A power with a straight part at nothing, as display systems have it, and its inverse. */
function monitor(g: number, o: number): { forth: Curve; back: Curve } {
  // without an offset, or with none of a curve, there is no straight part
  if (o === 0 || g === 1) return { forth: (v) => Math.max(v, 0) ** g, back: (v) => Math.max(v, 0) ** (1 / g) }
  const end = o / (g - 1)
  const low = ((o * g) / ((g - 1) * (1 + o))) ** g
  const slope = low / end
  return {
    forth: (v) => (v >= end ? ((v + o) / (1 + o)) ** g : v * slope),
    back: (v) => (v >= low ? (1 + o) * v ** (1 / g) - o : v / slope),
  }
}

const power: (g: number) => Curve = (g) => (v) => Math.max(v, 0) ** g
const passing: (g: number) => Curve = (g) => (v) => (v < 0 ? v : v ** g)

/** Styles of exponents: by what they make of one, and of an offset where they have it. */
const exponents: Readonly<Record<string, { readonly monitor?: true; of(g: number, o: number): Curve }>> = {
  basicFwd: { of: power },
  basicRev: { of: (g) => power(1 / g) },
  basicMirrorFwd: { of: (g) => mirrored(power(g)) },
  basicMirrorRev: { of: (g) => mirrored(power(1 / g)) },
  basicPassThruFwd: { of: passing },
  basicPassThruRev: { of: (g) => passing(1 / g) },
  monCurveFwd: { monitor: true, of: (g, o) => monitor(g, o).forth },
  monCurveRev: { monitor: true, of: (g, o) => monitor(g, o).back },
  monCurveMirrorFwd: { monitor: true, of: (g, o) => mirrored(monitor(g, o).forth) },
  monCurveMirrorRev: { monitor: true, of: (g, o) => mirrored(monitor(g, o).back) },
}

/** `Exponent`. */
export function exponent(n: ListNode): TableStage[] {
  const style = styled(exponents, n)
  const [least, largest] = style.monitor ? [1, 10] : [0.01, 100]
  const of = (p: Params | null): Curve => {
    if (!p) return (v) => v
    const { exponent: g = NaN, offset = 0 } = p
    if (!(g >= least && g <= largest)) wrongTable(`An exponent is from ${least} to ${largest}.`, n.where)
    if (style.monitor && !(offset >= 0 && offset <= 0.9)) wrongTable('An offset is from 0 to 0.9.', n.where)
    return style.of(g, offset)
  }
  return [curves(paramsOf(n, 'ExponentParams'), of)]
}

/** The function that a node's style names, out of those there are. */
function styled<T>(styles: Readonly<Record<string, T>>, { element, where }: ListNode): T {
  const { style = '' } = element.attributes
  return Object.hasOwn(styles, style)
    ? styles[style]!
    : wrongTable(`Its style is “${style.slice(0, 30)}”, where there are ${Object.keys(styles).join(', ')}.`, where)
}

const logOf = (v: number, base: number) => Math.log(Math.max(v, leastLight)) / Math.log(base)

interface LogShape {
  readonly base: number
  readonly logSideSlope: number
  readonly logSideOffset: number
  readonly linSideSlope: number
  readonly linSideOffset: number
  /** Below it both sides are straight; none where all is logarithmic. */
  readonly linSideBreak?: number
  readonly linearSlope?: number
}

/** A logarithm and its inverse, whose straight part goes on as steep as the curve where nothing else is said. */
function camera(s: LogShape): { forth: Curve; back: Curve } {
  const { base, logSideSlope: a, logSideOffset: b, linSideSlope: c, linSideOffset: d } = s
  const forth = (v: number) => a * logOf(c * v + d, base) + b
  const back = (v: number) => (base ** ((v - b) / a) - d) / c
  const end = s.linSideBreak
  if (end === undefined) return { forth, back }
  const slope = s.linearSlope ?? (a * c) / ((c * end + d) * Math.log(base))
  const low = forth(end)
  return {
    forth: (v) => (v <= end ? low + slope * (v - end) : forth(v)),
    back: (v) => (v <= low ? end + (v - low) / slope : back(v)),
  }
}

/** Styles of logarithms that are always the same, and those that have a shape. */
const plainLogs: Readonly<Record<string, Curve>> = {
  log10: (v) => logOf(v, 10),
  antiLog10: (v) => 10 ** v,
  log2: (v) => logOf(v, 2),
  antiLog2: (v) => 2 ** v,
}
const shapedLogs: Readonly<Record<string, { readonly breaks: boolean; of(s: LogShape): Curve }>> = {
  linToLog: { breaks: false, of: (s) => camera(s).forth },
  logToLin: { breaks: false, of: (s) => camera(s).back },
  cameraLinToLog: { breaks: true, of: (s) => camera(s).forth },
  cameraLogToLin: { breaks: true, of: (s) => camera(s).back },
}

/** `Log`. */
export function logarithm(n: ListNode): TableStage[] {
  const style = styled({ ...plainLogs, ...shapedLogs }, n)
  if (typeof style === 'function') return [curves([style, style, style], (f) => f)]
  const of = (p: Params | null): Curve => {
    if (!p) return (v) => v
    const plain = { base: 2, logSideSlope: 1, logSideOffset: 0, linSideSlope: 1, linSideOffset: 0 }
    const shape: LogShape = { ...plain, ...p, ...(style.breaks ? {} : { linSideBreak: undefined }) }
    if (!(shape.base > 0) || shape.base === 1) wrongTable('A logarithm has a base above 0 that is not 1.', n.where)
    for (const k of ['logSideSlope', 'linSideSlope', 'linearSlope'] as const)
      if (shape[k] === 0) wrongTable(`Its ${k} is 0.`, n.where)
    const end = shape.linSideBreak
    if (style.breaks && end === undefined) wrongTable('It says no linSideBreak.', n.where)
    if (end !== undefined && shape.linSideSlope * end + shape.linSideOffset <= 0)
      wrongTable('Where its straight part ends there is no logarithm.', n.where)
    return style.of(shape)
  }
  return [curves(paramsOf(n, 'LogParams'), of)]
}

/** Luma as saturation knows it: that of BT.709. */
const weights = [0.2126, 0.7152, 0.0722] as const

const scaled = (slope: readonly number[], offset: readonly number[]): TableStage => ({
  kind: 'matrix',
  rows: [0, 1, 2].flatMap((r) => [...[0, 1, 2].map((k) => (k === r ? slope[r]! : 0)), offset[r]!]),
})

const saturated = (by: number): TableStage => ({
  kind: 'matrix',
  rows: [0, 1, 2].flatMap((r) => [...weights.map((w, k) => (1 - by) * w + (k === r ? by : 0)), 0]),
})

const unit: TableStage = { kind: 'clamp', low: 0, high: 1 }

const cdlStyles: Readonly<Record<string, { readonly back: boolean; readonly clamped: boolean }>> = {
  Fwd: { back: false, clamped: true },
  Rev: { back: true, clamped: true },
  FwdNoClamp: { back: false, clamped: false },
  RevNoClamp: { back: true, clamped: false },
}

/** `ASC_CDL`: slope, offset and power of each, then the saturation of all. */
export function cdl(n: ListNode): TableStage[] {
  const { back, clamped } = styled(cdlStyles, n)
  const inside = children(n.element.node).flatMap((e) => (telling.has(e.name) ? [] : children(e.node)))
  const value = (name: string, count: number, none: number) => {
    const found = inside.find((e) => e.name === name)
    const list = found ? numbersIn(textWithin(found), count, n.where) : Array<number>(count).fill(none)
    return list.length === count ? list : wrongTable(`Its ${name} has ${count} numbers.`, n.where)
  }
  const [slope, offset, powers] = [value('Slope', 3, 1), value('Offset', 3, 0), value('Power', 3, 1)]
  const [saturation] = value('Saturation', 1, 1) as [number]
  const small = back ? 'above 0' : 'from 0 on'
  const bad = (v: number) => (back ? v <= 0 : v < 0)
  if (slope.some(bad)) wrongTable(`A slope is ${small}.`, n.where)
  if (powers.some((v) => v <= 0)) wrongTable('A power is above 0.', n.where)
  if (bad(saturation)) wrongTable(`Its saturation is ${small}.`, n.where)
  const ends = clamped ? [unit] : []
  const bent = powers.every((p) => p === 1) ? [] : [curves(powers, (p) => passing(back ? 1 / p : p))]
  if (!back) return [scaled(slope, offset), ...ends, ...bent, saturated(saturation), ...ends]
  const inverse = scaled(
    slope.map((v) => 1 / v),
    slope.map((v, i) => -offset[i]! / v),
  )
  return [...ends, saturated(1 / saturation), ...ends, ...bent, inverse, ...ends]
}
