import type { Colour, VideoInfo } from './media'

/** BT.709 in narrow range. */
export const bt709: Colour = { primaries: 1, transfer: 1, matrix: 1, fullRange: false }

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

/** Pictures of a size with what is stated of their colour. */
export type ColouredPictures = Pick<VideoInfo, 'colour' | 'width' | 'height'>

/** Lines of pictures of ITU-R BT.601, with those of the blanking that some carry, by its systems. */
const linesOf601: Readonly<Record<string, readonly number[]>> = {
  'bt601-525': [480, 486, 512],
  'bt601-625': [576, 608],
}

/** What pictures are of which nothing says the colour: BT.601 where they are of its size, else BT.709. */
function usualColour({ width, height }: Pick<ColouredPictures, 'width' | 'height'>): Colour {
  // 702 to 720 samples a line, 768 of square pixels
  const system = systems.find(({ name }) => linesOf601[name]?.includes(height))
  return system && width >= 700 && width <= 768 ? system.colour : bt709
}

/** Whether nothing at all says what colour pictures are of. */
export const isColourUntold = ({ colour }: Pick<ColouredPictures, 'colour'>): boolean =>
  !colour || (colour.primaries === 2 && colour.transfer === 2 && colour.matrix === 2)

/**
 * What pictures are worked on as, in narrow range, to which all are brought: what is stated of them, and of what is not
 * stated what is usual for their size.
 */
export function colourOf(pictures: ColouredPictures | undefined): Colour {
  if (!pictures) return bt709
  const { colour } = pictures
  const usual = usualColour(pictures)
  const told = (v: number | undefined, otherwise: number) => (v === undefined || v === 2 ? otherwise : v)
  return {
    primaries: told(colour?.primaries, usual.primaries),
    transfer: told(colour?.transfer, usual.transfer),
    matrix: told(colour?.matrix, usual.matrix),
    fullRange: false,
  }
}

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

/** What of a colour pictures are shown without here, where they are shown by their matrix alone; null of others. */
export function shownWithout({ primaries, transfer }: Colour): string | null {
  if (transfer === 16) return 'PQ'
  if (transfer === 18) return 'HLG'
  return primaries === 9 ? 'BT.2020' : null
}

/** The shares of red and of blue in luma; green has the rest. */
export type LumaWeights = readonly [red: number, blue: number]

export const luma709: LumaWeights = [0.2126, 0.0722]
const luma601: LumaWeights = [0.299, 0.114]
const luma2020: LumaWeights = [0.2627, 0.0593]

/** The weights of luma of pictures. */
export const lumaWeightsOf = (pictures: ColouredPictures): LumaWeights => lumaWeights(colourOf(pictures).matrix)

/** The weights of luma by the matrix code of ITU-T H.273 table 4; those of BT.709 where it tells none. */
export function lumaWeights(matrix: number): LumaWeights {
  if (matrix === 5 || matrix === 6) return luma601
  return matrix === 9 ? luma2020 : luma709
}
