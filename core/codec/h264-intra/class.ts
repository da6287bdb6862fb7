import type { PictureShape } from '../codec'
import { scanText } from '../../media/scan'
import { fail } from '../../problem'
import { rateLabel, sameRate, makeRate, type Rate } from '../../time/rate'

// Classes of intra pictures: constant size by raster and rate (SMPTE RP 2027), and what MXF calls each (SMPTE
// registers).

/** A raster and rate of a class. */
interface Row {
  readonly width: number
  readonly height: number
  readonly rate: Rate
  readonly fields: boolean
  /** Bytes of every access unit. */
  readonly bytes: number
  /** The last byte of the coding's label. */
  readonly label: number
}

const row = (height: number, rate: Rate, fields: boolean, bytes: number, label: number): Row => ({
  ...{ width: height === 1080 ? 1920 : 1280, height, rate, fields, bytes, label },
})

/** Class 100: 10 bit 4:2:2. */
const class100: readonly Row[] = [
  row(1080, makeRate(30000, 1001), true, 472_576, 1),
  row(1080, makeRate(25), true, 568_832, 2),
  row(1080, makeRate(30000, 1001), false, 472_576, 3),
  row(1080, makeRate(25), false, 568_832, 4),
  row(1080, makeRate(24000, 1001), false, 472_576, 5),
  row(720, makeRate(60000, 1001), false, 236_544, 8),
  row(720, makeRate(50), false, 284_672, 9),
]

/** The row for pictures of a shape; null where the class has none. */
export function classOf({ width, height, rate, scan }: PictureShape): Row | null {
  const fields = scan !== 'progressive'
  return (
    class100.find((r) => r.width === width && r.height === height && r.fields === fields && sameRate(r.rate, rate)) ??
    null
  )
}

/** The same, or a problem that says which there are. */
export function needClass(shape: PictureShape): Row {
  const lines = (r: Row) => `${r.height} lines ${r.fields ? 'in fields' : 'progressive'} at ${rateLabel(r.rate)}`
  const pictures = `${shape.width}×${shape.height}, ${scanText(shape.scan)},`
  return (
    classOf(shape) ??
    fail(
      'h264-intra.class',
      `Class 100 has no pictures of ${pictures} at ${rateLabel(shape.rate)}.`,
      undefined,
      `Choose one of those there are: ${class100.map(lines).join(', ')}.`,
    )
  )
}
