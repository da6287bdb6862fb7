import type { TableStage } from '../../kernel/table'
import { halves } from '../../half'
import { children, parseXml, textWithin } from '../../xml'
import { cdl, exponent, logarithm } from './clffunctions'
import { arrayOf, numbersIn, ones, telling, type ListNode } from './clfnode'
import { largestCurve, largestGrid, otherTable, shapeOf, wrongTable, type TableFormat } from './table'

// Common LUT Format (SMPTE ST 2136-1): nodes that colours go through one after the other.

function matrix(n: ListNode): TableStage[] {
  const { sizes, numbers } = arrayOf(n, 2, 12)
  const [rows, columns] = sizes as [number, number]
  if (rows !== 3 || (columns !== 3 && columns !== 4) || numbers.length !== rows * columns)
    wrongTable('A matrix has three rows of three or four numbers.', n.where)
  const scaled = [0, 1, 2].flatMap((r) => [
    ...numbers.slice(r * columns, r * columns + 3).map((v) => (v * n.into) / n.out),
    columns === 4 ? numbers[r * columns + 3]! / n.out : 0,
  ])
  return [{ kind: 'matrix', rows: scaled }]
}

function range({ element, where, into, out }: ListNode): TableStage[] {
  const value = (name: string, one: number) => {
    const child = children(element.node).find((c) => c.name === name)
    if (!child) return null
    const [v] = numbersIn(textWithin(child), 1, where)
    return v === undefined ? null : v / one
  }
  const [lowIn, highIn] = [value('minInValue', into), value('maxInValue', into)]
  const [lowOut, highOut] = [value('minOutValue', out), value('maxOutValue', out)]
  if ((lowIn === null) !== (lowOut === null) || (highIn === null) !== (highOut === null))
    wrongTable('A range says what goes in and what comes out, of each end that it has.', where)
  if (lowIn === null && highIn === null) wrongTable('A range has one end at least.', where)
  const both = lowIn !== null && highIn !== null
  if (both && highIn <= lowIn) wrongTable('A range ends where it begins, or before.', where)
  const scale = both ? (highOut! - lowOut!) / (highIn - lowIn) : 1
  const add = lowIn !== null ? lowOut! - lowIn * scale : highOut! - highIn! * scale
  const stages: TableStage[] = [{ kind: 'matrix', rows: [scale, 0, 0, add, 0, scale, 0, add, 0, 0, scale, add] }]
  if (element.attributes.style === 'noClamp') return stages
  return [...stages, { kind: 'clamp', low: lowOut ?? -Infinity, high: highOut ?? Infinity }]
}

function curves(n: ListNode): TableStage[] {
  const { halfDomain, rawHalfs, hueAdjust } = n.element.attributes
  if (hueAdjust && hueAdjust !== 'none') otherTable('Curves that keep hues are not read here.', n.where)
  const whole = halfDomain === 'true'
  const { sizes, numbers } = arrayOf(n, 2, 3 * largestCurve, !whole)
  const [count, columns] = sizes as [number, number]
  if (count < 2 || (columns !== 1 && columns !== 3) || numbers.length !== count * columns)
    wrongTable('Curves have two points or more, each of one or three numbers.', n.where)
  const raw = rawHalfs === 'true'
  if (raw && (n.out !== 1 || numbers.some((v) => !Number.isInteger(v) || halves[v] === undefined)))
    wrongTable('Half floats are given by their bits, each a number from 0 to 65 535.', n.where)
  const points = Float64Array.from(numbers, (v) => (raw ? halves[v]! : v / n.out))
  // what an infinity or no number becomes is never looked up
  const asked = (i: number) => !whole || Number.isFinite(halves[Math.floor(i / columns)])
  const wrong = points.findIndex((v, i) => !Number.isFinite(v) && asked(i))
  if (wrong >= 0) wrongTable(`Its number ${wrong + 1} is infinite or none.`, n.where)
  const at = (i: number, k: number) => points[i * columns + (columns === 3 ? k : 0)]!
  if (!whole) {
    const of = (k: number) => Float64Array.from({ length: count }, (_, i) => at(i, k))
    return [{ kind: 'curves', low: [0, 0, 0], high: [1, 1, 1], points: [of(0), of(1), of(2)] }]
  }
  if (count !== halves.length) wrongTable('A curve over half floats has 65 536 points.', n.where)
  if (n.into !== 1) otherTable('A curve over half floats that takes whole numbers is not read here.', n.where)
  return [{ kind: 'halves', points: [0, 1, 2].map((k) => Float32Array.from(halves, (_, i) => at(i, k))) }]
}

function grid(n: ListNode): TableStage[] {
  const { sizes, numbers } = arrayOf(n, 4, 3 * largestGrid ** 3)
  const [size] = sizes as [number]
  if (size < 2 || sizes[1] !== size || sizes[2] !== size || sizes[3] !== 3 || numbers.length !== 3 * size ** 3)
    wrongTable(`A cube has 2 to ${largestGrid} points a side, each of three numbers.`, n.where)
  const points = Float32Array.from(numbers, (v) => v / n.out)
  return [{ kind: 'grid', low: [0, 0, 0], high: [1, 1, 1], size, points }]
}

/** Nodes of a list, at most. */
const mostNodes = 64

/** Kinds of nodes that are read: a new one is a line here. */
const nodes: Readonly<Record<string, (n: ListNode) => TableStage[]>> = {
  Matrix: matrix,
  Range: range,
  LUT1D: curves,
  LUT3D: grid,
  Log: logarithm,
  Exponent: exponent,
  ASC_CDL: cdl,
}

export const clf: TableFormat = {
  name: 'clf',
  label: 'Common LUT Format',
  extensions: ['.clf'],
  matches: (text) => /<(\w+:)?ProcessList[\s>]/.test(text.slice(0, 10_000)),
  read(text, name) {
    const list = children(parseXml(text, name)).find((c) => c.name === 'ProcessList')
    if (!list) return wrongTable('It has no list of nodes.', name)
    const stages: TableStage[] = []
    let at = 0
    for (const element of children(list.node)) {
      if (telling.has(element.name)) continue
      if (++at > mostNodes) return otherTable(`It has more than ${mostNodes} nodes.`, name)
      const where = `${name}, ${element.name} ${at}`
      const read = nodes[element.name]
      if (!read) return otherTable(`Nodes of kind “${element.name}” are not read here.`, where)
      if (element.attributes.bypass === 'true') continue
      const [into, out] = ['inBitDepth', 'outBitDepth'].map((k) => ones[element.attributes[k] ?? ''])
      if (!into || !out) return wrongTable('It does not say the depth of what goes in and comes out.', where)
      stages.push(...read({ element, where, into, out }))
    }
    if (at === 0) wrongTable('It has no nodes.', name)
    return { name: list.attributes.name ?? list.attributes.id ?? '', shape: shapeOf(stages), stages }
  },
}
