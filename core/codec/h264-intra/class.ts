import type { PictureShape } from '../codec'
import { scanText } from '../../media/scan'
import { fail } from '../../problem'
import { rateLabel, sameRate, makeRate, type Rate } from '../../time/rate'

// Classes of intra pictures: constant size by raster and rate (SMPTE RP 2027), and what MXF calls each (SMPTE
// registers).

/** What all pictures of a class are, 10 bits deep. */
interface PictureClass {
  readonly name: number
  readonly profile: string
  readonly chroma: '4:2:0' | '4:2:2'
  /** Coded by arithmetic, where it is not by variable lengths. */
  readonly arithmetic: boolean
  readonly pixelAspect: string
  /** The level of pictures of so many lines, times ten. */
  level(lines: number): number
  /** The byte before the last of the coding's label. */
  readonly label: string
}

/** A raster and rate of a class. */
interface Row {
  readonly of: PictureClass
  readonly width: number
  readonly height: number
  readonly rate: Rate
  readonly fields: boolean
  /** Bytes of every access unit. */
  readonly bytes: number
  /** The last byte of the coding's label. */
  readonly label: number
}

const class100: PictureClass = {
  ...{ name: 100, profile: 'High 4:2:2 Intra', chroma: '4:2:2', arithmetic: false, pixelAspect: '1:1', label: '31' },
  level: () => 41,
}

/** Of three quarters of the samples in a line. */
const class50: PictureClass = {
  ...{ name: 50, profile: 'High 10 Intra', chroma: '4:2:0', arithmetic: true, pixelAspect: '4:3', label: '21' },
  level: (lines) => (lines > 720 ? 40 : 32),
}

/** Of 1080 and 720 lines: the rate, whether in fields, bytes of each picture of class 100 and of 50, the last byte. */
const sizes = [
  [1080, makeRate(30000, 1001), true, 472_576, 232_960, 1],
  [1080, makeRate(25), true, 568_832, 281_088, 2],
  [1080, makeRate(30000, 1001), false, 472_576, 232_960, 3],
  [1080, makeRate(25), false, 568_832, 281_088, 4],
  [1080, makeRate(24000, 1001), false, 472_576, 232_960, 5],
  [720, makeRate(60000, 1001), false, 236_544, 116_736, 8],
  [720, makeRate(50), false, 284_672, 140_800, 9],
] as const

const rows: readonly Row[] = [class100, class50].flatMap((of) =>
  sizes.map(([height, rate, fields, large, small, label]) => ({
    ...{ of, height, rate, fields, label },
    width: ((height * 16) / 9) * (of === class100 ? 1 : 3 / 4),
    bytes: of === class100 ? large : small,
  })),
)

/** The class that has pictures of a width; null where none has. */
export const classWith = (width: number): PictureClass | null => rows.find((r) => r.width === width)?.of ?? null

/** The same; class 100 where there is none. */
export const classOfWidth = (width: number): PictureClass => classWith(width) ?? class100

/** The row for pictures of a shape; null where no class has such. */
export function classOf({ width, height, rate, scan }: PictureShape): Row | null {
  const fields = scan !== 'progressive'
  return (
    rows.find((r) => r.width === width && r.height === height && r.fields === fields && sameRate(r.rate, rate)) ?? null
  )
}

/** The same, or a problem that says which there are. */
export function needClass(shape: PictureShape): Row {
  const raster = (r: Row) => `${r.width}×${r.height} ${r.fields ? 'in fields' : 'progressive'} at ${rateLabel(r.rate)}`
  const pictures = `${shape.width}×${shape.height}, ${scanText(shape.scan)},`
  const of = classWith(shape.width)
  const there = rows.filter((r) => of === null || r.of === of)
  const none = of ? `Class ${of.name} has no pictures` : 'No class of intra pictures has any'
  return (
    classOf(shape) ??
    fail(
      'h264-intra.class',
      `${none} of ${pictures} at ${rateLabel(shape.rate)}.`,
      undefined,
      `Choose one of those there are: ${there.map(raster).join(', ')}.`,
    )
  )
}
