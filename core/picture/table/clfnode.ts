import { children, textWithin, type Element } from '../../xml'
import { otherTable, wrongTable } from './table'

// What all nodes of a list in Common LUT Format (SMPTE ST 2136-1) have, and their arrays of numbers.

/** What stands for 1 in the numbers of a node, by its bit depth. */
export const ones: Readonly<Record<string, number>> = {
  '8i': 255,
  '10i': 1023,
  '12i': 4095,
  '16i': 65535,
  '16f': 1,
  '32f': 1,
}

/** What says something of a list or a node and does nothing. */
export const telling = new Set(['Description', 'InputDescriptor', 'OutputDescriptor', 'Info'])

/** A node of a list with what all of them have. */
export interface ListNode {
  readonly element: Element
  /** `a.clf, LUT3D 2`. */
  readonly where: string
  readonly into: number
  readonly out: number
}

/** How writers put what is infinite, or no number. */
const unreal = /^[+-]?(inf(inity)?|nan)$/i

/** The numbers of a text, `most` of them; what is infinite or none is NaN where it may be there at all. */
export function numbersIn(text: string, most: number, where: string, real = true): number[] {
  const words = text.split(/\s+/).filter(Boolean)
  if (words.length > most) wrongTable(`It has ${words.length} numbers where ${most} are the most.`, where)
  const list = words.map((w) => (unreal.test(w) ? NaN : Number(w)))
  const wrong = list.findIndex((v, i) => !Number.isFinite(v) && (real || !unreal.test(words[i]!)))
  if (wrong >= 0) wrongTable(`Its number ${wrong + 1} is “${words[wrong]!.slice(0, 20)}”.`, where)
  return list
}

/** The numbers of a node's array, whose sizes it says. */
export function arrayOf(
  { element, where }: ListNode,
  dims: number,
  most: number,
  real = true,
): { sizes: number[]; numbers: number[] } {
  const array = children(element.node).find((c) => c.name === 'Array')
  if (!array) wrongTable('It has no array.', where)
  const other = children(element.node).find((c) => c.name !== 'Array' && !telling.has(c.name))
  if (other) otherTable(`“${other.name}” of a node is not read here.`, where)
  const sizes = numbersIn(array.attributes.dim ?? '', dims, where)
  if (sizes.length !== dims || sizes.some((n) => !Number.isInteger(n) || n < 1))
    wrongTable(`Its array says “${(array.attributes.dim ?? '').slice(0, 40)}” of its sizes.`, where)
  const numbers = numbersIn(textWithin(array), most, where, real)
  return { sizes, numbers }
}
