import type { Scan } from '../media/media'
import { hasFields } from '../media/scan'
import { emptyPicture, toChroma420, toChroma422, type Picture, type Plane } from './picture'
import { fitPicture, type Raster } from './scale'

// Pictures of two fields: the lines of one stand between those of the other, and were taken at another time.

/**
 * What becomes of fields: they stay as they are; stay, each a line lower or higher, so that the other lines come first;
 * are joined into one picture; or there are none.
 */
export type FieldWork = 'keep' | 'lower' | 'higher' | 'join' | 'none'

/** What becomes of the fields of a source in a file. An order that is not said is not changed. */
export function fieldWork(from: Scan, to: Scan): FieldWork {
  if (!hasFields(from)) return 'none'
  if (!hasFields(to)) return 'join'
  if (from === to || from === 'interlaced' || to === 'interlaced') return 'keep'
  return from === 'interlaced-tff' ? 'lower' : 'higher'
}

/** Whether fields stay two, in either order. */
export const keepsFields = (work: FieldWork): boolean => work !== 'join' && work !== 'none'

export const turnsFields = (work: FieldWork): boolean => work === 'lower' || work === 'higher'

/**
 * A picture of 4:2:2 whose other field comes first: its lines a line lower or higher, nothing sampled anew. The line
 * that is missing at the edge is the next one of its own field.
 */
export function turned(p: Picture, work: FieldWork): Picture {
  if (!turnsFields(work)) return p
  const out = emptyPicture(p.width, p.height, p.chroma, p.bitDepth)
  p.planes.forEach((from, k) => {
    const to = out.planes[k]!
    const width = from.length / p.height
    if (work === 'lower') {
      to.set(from.subarray(0, from.length - width), width)
      to.set(from.subarray(width, 2 * width))
    } else {
      to.set(from.subarray(width))
      to.set(from.subarray(from.length - 2 * width, from.length - width), from.length - width)
    }
  })
  return out
}

const heightsOf = (p: Picture): readonly [number, number, number] => {
  const chroma = p.chroma === '4:2:0' ? (p.height + 1) >> 1 : p.height
  return [p.height, chroma, chroma]
}

/** The upper and the lower field of a picture, each a picture of half its lines, which are a multiple of four. */
export function fieldsOf(p: Picture): [upper: Picture, lower: Picture] {
  const half = () => emptyPicture(p.width, p.height / 2, p.chroma, p.bitDepth)
  const fields: [Picture, Picture] = [half(), half()]
  eachLine(p, fields, (line, of) => of.set(line))
  return fields
}

/** The picture that two fields make. */
export function woven(upper: Picture, lower: Picture): Picture {
  const p = emptyPicture(upper.width, upper.height * 2, upper.chroma, upper.bitDepth)
  eachLine(p, [upper, lower], (line, of) => line.set(of))
  return p
}

function eachLine(p: Picture, fields: readonly Picture[], each: (line: Plane, of: Plane) => void): void {
  const heights = heightsOf(p)
  p.planes.forEach((plane, k) => {
    const height = heights[k]!
    const width = plane.length / height
    for (let y = 0; y < height; y++) {
      const own = fields[y & 1]!.planes[k]!
      const at = (y >> 1) * width
      each(plane.subarray(y * width, (y + 1) * width), own.subarray(at, at + width))
    }
  })
}

/**
 * One picture of two fields out of two pictures, of 4:2:2, that follow each other: the lines of one field are of the
 * first, those of the other of the second. Each is taken together with its neighbours, a half and two quarters, since
 * what is a single line high would flicker.
 */
export function pairedFields(first: Picture, second: Picture, scan: Scan): Picture {
  const out = emptyPicture(first.width, first.height, first.chroma, first.bitDepth)
  const [upper, lower] = scan === 'interlaced-bff' ? [second, first] : [first, second]
  out.planes.forEach((to, k) => {
    const width = to.length / out.height
    for (let y = 0; y < out.height; y++) {
      const from = (y & 1 ? lower : upper).planes[k]!
      const at = y * width
      const above = y > 0 ? at - width : at
      const below = y + 1 < out.height ? at + width : at
      for (let x = 0; x < width; x++) to[at + x] = (from[above + x]! + 2 * from[at + x]! + from[below + x]! + 2) >> 2
    }
  })
  return out
}

const inFields = (p: Picture, each: (field: Picture, position: 0 | 1) => Picture): Picture => {
  const [upper, lower] = fieldsOf(p)
  return woven(each(upper, 0), each(lower, 1))
}

/** Steps of 8 bits by which a line must leave both its neighbours to be of another time. */
const combed = 10

/**
 * One picture of two fields: the upper field, and of the lower one what does not stand out from it. Where a line of
 * the lower field leaves those above and below it to the same side, something moved, and it is worked out from them.
 */
export function joinedFields(p: Picture): Picture {
  const out = emptyPicture(p.width, p.height, p.chroma, p.bitDepth)
  const least = (combed << (p.bitDepth - 8)) ** 2
  const heights = heightsOf(p)
  p.planes.forEach((from, k) => {
    const to = out.planes[k]!
    const height = heights[k]!
    const width = from.length / height
    to.set(from)
    for (let y = 1; y + 1 < height; y += 2) {
      const at = y * width
      for (let i = at; i < at + width; i++) {
        const [a, b] = [from[i - width]!, from[i + width]!]
        if ((from[i]! - a) * (from[i]! - b) > least) to[i] = (a + b + 1) >> 1
      }
    }
  })
  return out
}

/**
 * Brings a picture into another raster, with its fields as they are to be there. A field lies a quarter of its lines
 * above or below the middle of its picture: that is kept when lines become more or fewer.
 */
export function fitScan(p: Picture, raster: Raster, work: FieldWork): Picture {
  const same = p.width === raster.width && p.height === raster.height && Math.abs((raster.aspect ?? 1) - 1) < 1e-3
  if (work === 'join') return fitPicture(joinedFields(p), raster)
  if (work === 'none' || same) return fitPicture(p, raster)
  return inFields(p, (field, position) =>
    fitPicture(field, {
      ...raster,
      height: raster.height / 2,
      aspect: raster.aspect ?? 1,
      lines: position === 0 ? 'upper' : 'lower',
    }),
  )
}

/** A picture as 4:2:0; chroma of one field is not made from that of the other. */
export const toChroma420Of = (p: Picture, scan: Scan): Picture =>
  hasFields(scan) && p.chroma === '4:2:2' ? inFields(p, toChroma420) : toChroma420(p)

/** A picture as 4:2:2; chroma of one field is not made from that of the other. */
export const toChroma422Of = (p: Picture, work: FieldWork): Picture =>
  keepsFields(work) && p.chroma === '4:2:0' ? inFields(p, toChroma422) : toChroma422(p)
