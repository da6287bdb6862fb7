import type { Colour } from './media'

/** BT.709 in narrow range: what pictures are when nothing is said of them, and what is made here by default. */
export const bt709: Colour = { primaries: 1, transfer: 1, matrix: 1, fullRange: false }

/** What is written of pictures made from others: theirs, in narrow range, to which all are brought. */
export function madeColour(source: Colour | null): Colour {
  const told = (v: number | undefined, otherwise: number) => (v === undefined || v === 2 ? otherwise : v)
  return {
    primaries: told(source?.primaries, bt709.primaries),
    transfer: told(source?.transfer, bt709.transfer),
    matrix: told(source?.matrix, bt709.matrix),
    fullRange: false,
  }
}

const names: Readonly<Record<string, string>> = {
  '1/1/1': 'BT.709',
  '5/6/5': 'BT.601, 625 lines (H.273 5/6/5)',
  '5/6/6': 'BT.601, 625 lines',
  '6/6/6': 'BT.601, 525 lines',
  '1/13/1': 'BT.709 with the sRGB curve',
  '9/14/9': 'BT.2020',
  '9/16/9': 'BT.2100 PQ',
  '9/18/9': 'BT.2100 HLG',
}

/** A colour description as a rule can ask for it: code points of ITU-T H.273, `1/1/1`, and `full` for full range. */
export const colourValue = (c: Colour) => `${c.primaries}/${c.transfer}/${c.matrix}${c.fullRange ? ' full' : ''}`

/** The same for people. */
export function colourText(c: Colour | null): string {
  if (!c) return 'not described'
  const codes = `${c.primaries}/${c.transfer}/${c.matrix}`
  return `${names[codes] ?? `H.273 ${codes}`}${c.fullRange ? ', full range' : ''}`
}

/** A system of television: how its pictures are described, and where its red, green, blue and white are (x, y). */
interface System {
  readonly name: string
  readonly label: string
  readonly colour: Colour
  readonly xy: readonly number[]
}

/** Systems that pictures are converted between (ITU-R BT.709, BT.601, BT.2020; ITU-T H.273 table 2). */
export const systems: readonly System[] = [
  {
    ...{ name: 'bt709', label: 'BT.709', colour: bt709 },
    xy: [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329],
  },
  {
    ...{ name: 'bt601-625', label: 'BT.601, 625 lines' },
    colour: { primaries: 5, transfer: 6, matrix: 6, fullRange: false },
    xy: [0.64, 0.33, 0.29, 0.6, 0.15, 0.06, 0.3127, 0.329],
  },
  {
    ...{ name: 'bt601-525', label: 'BT.601, 525 lines' },
    colour: { primaries: 6, transfer: 6, matrix: 6, fullRange: false },
    xy: [0.63, 0.34, 0.31, 0.595, 0.155, 0.07, 0.3127, 0.329],
  },
  {
    ...{ name: 'bt2020', label: 'BT.2020' },
    colour: { primaries: 9, transfer: 14, matrix: 9, fullRange: false },
    xy: [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329],
  },
]

/** Matrices by their codes whose weights are known here (ITU-T H.273 table 4). */
const matrices = new Set([1, 5, 6, 9])
/** Transfer functions of television, which a display takes for the same (ITU-T H.273 table 3). */
const transfers = new Set([1, 6, 14, 15])

/** Whether R′G′B′ can be told from pictures of a colour, in standard dynamic range. */
export const hasRgb = ({ matrix, transfer }: Colour): boolean =>
  matrices.has(matrix) && transfer !== 16 && transfer !== 18

/** Whether pictures of a colour can be brought to another: their primaries, transfer and matrix are known here. */
export const convertible = (c: Colour): boolean =>
  hasRgb(c) && transfers.has(c.transfer) && systems.some((s) => s.colour.primaries === c.primaries)

/** The shares of red and of blue in luma; green has the rest. */
export type LumaWeights = readonly [red: number, blue: number]

export const luma709: LumaWeights = [0.2126, 0.0722]
const luma601: LumaWeights = [0.299, 0.114]
const luma2020: LumaWeights = [0.2627, 0.0593]

/** The weights of luma of pictures of so many lines: where nothing states their matrix, as is usual for as many. */
export function lumaWeightsFor(colour: Colour | null, lines: number): LumaWeights {
  if (colour && colour.matrix !== 2) return lumaWeights(colour.matrix)
  return lines >= 720 ? luma709 : luma601
}

/** The weights of luma by the matrix code of ITU-T H.273 table 4; those of BT.709 where it tells none. */
export function lumaWeights(matrix: number): LumaWeights {
  if (matrix === 5 || matrix === 6) return luma601
  return matrix === 9 ? luma2020 : luma709
}
