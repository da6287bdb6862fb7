import type { TableStage } from '../../kernel/table'
import { children, parseXml, textWithin, type Element } from '../../xml'
import { largestCurve, largestGrid, otherTable, shapeOf, wrongTable, type TableFormat } from './table'

// Common LUT Format (SMPTE ST 2136-1): nodes that colours go through one after the other.

/** What stands for 1 in the numbers of a node, by its bit depth. */
const ones: Readonly<Record<string, number>> = {
  '8i': 255,
  '10i': 1023,
  '12i': 4095,
  '16i': 65535,
  '16f': 1,
  '32f': 1,
}

/** What says something of a list or a node and does nothing. */
const telling = new Set(['Description', 'InputDescriptor', 'OutputDescriptor', 'Info'])

/** A node of a list with what all of them have. */
interface ListNode {
  readonly element: Element
  /** `a.clf, LUT3D 2`. */
  readonly where: string
  readonly into: number
  readonly out: number
}

function numbersIn(text: string, most: number, where: string): number[] {
  const words = text.split(/\s+/).filter(Boolean)
  if (words.length > most) wrongTable(`It has ${words.length} numbers where ${most} are the most.`, where)
  const list = words.map(Number)
  const wrong = list.findIndex((v) => !Number.isFinite(v))
  if (wrong >= 0) wrongTable(`Its number ${wrong + 1} is “${words[wrong]!.slice(0, 20)}”.`, where)
  return list
}

/** The numbers of a node's array, whose sizes it says. */
function arrayOf({ element, where }: ListNode, dims: number, most: number): { sizes: number[]; numbers: number[] } {
  const array = children(element.node).find((c) => c.name === 'Array')
  if (!array) wrongTable('It has no array.', where)
  const other = children(element.node).find((c) => c.name !== 'Array' && !telling.has(c.name))
  if (other) otherTable(`“${other.name}” of a node is not read here.`, where)
  const sizes = numbersIn(array.attributes.dim ?? '', dims, where)
  if (sizes.length !== dims || sizes.some((n) => !Number.isInteger(n) || n < 1))
    wrongTable(`Its array says “${(array.attributes.dim ?? '').slice(0, 40)}” of its sizes.`, where)
  const numbers = numbersIn(textWithin(array), most, where)
  return { sizes, numbers }
}

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
  if (n.element.attributes.halfDomain === 'true' || n.element.attributes.rawHalfs === 'true')
    otherTable('Curves over half floats are not read here.', n.where)
  if (n.element.attributes.hueAdjust) otherTable('Curves that keep hues are not read here.', n.where)
  const { sizes, numbers } = arrayOf(n, 2, 3 * largestCurve)
  const [count, columns] = sizes as [number, number]
  if (count < 2 || (columns !== 1 && columns !== 3) || numbers.length !== count * columns)
    wrongTable('Curves have two points or more, each of one or three numbers.', n.where)
  const of = (k: number) =>
    Float64Array.from({ length: count }, (_, i) => numbers[i * columns + (columns === 3 ? k : 0)]! / n.out)
  return [{ kind: 'curves', low: [0, 0, 0], high: [1, 1, 1], points: [of(0), of(1), of(2)] }]
}

function grid(n: ListNode): TableStage[] {
  const { sizes, numbers } = arrayOf(n, 4, 3 * largestGrid ** 3)
  const [size] = sizes as [number]
  if (size < 2 || sizes[1] !== size || sizes[2] !== size || sizes[3] !== 3 || numbers.length !== 3 * size ** 3)
    wrongTable(`A cube has 2 to ${largestGrid} points a side, each of three numbers.`, n.where)
  const points = Float32Array.from(numbers, (v) => v / n.out)
  return [{ kind: 'grid', low: [0, 0, 0], high: [1, 1, 1], size, points }]
}

/** Kinds of nodes that are read: a new one is a line here. */
const nodes: Readonly<Record<string, (n: ListNode) => TableStage[]>> = {
  Matrix: matrix,
  Range: range,
  LUT1D: curves,
  LUT3D: grid,
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
      at++
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
