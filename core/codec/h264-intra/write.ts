import { escapeNal } from '../../bits'
import { concatBytes } from '../../bytes'
import { aspectParts } from '../../media/aspect'
import type { Colour } from '../../media/media'
import type { Rate } from '../../time/rate'
import { SliceWriter } from './slicebits'

/** What a stream of intra pictures is. */
export interface Format {
  readonly width: number
  readonly height: number
  readonly depth: 8 | 10
  /** chroma_format_idc: 1 is 4:2:0, 2 is 4:2:2. */
  readonly chroma: 1 | 2
  /** Whether each frame is coded as two fields, the upper or the lower first. */
  readonly fields: null | 'top' | 'bottom'
  /** Whether pairs of macroblocks of a frame are of frame lines or fields, each as its {@link Chosen} says. */
  readonly adaptive?: boolean
  readonly level: number
  /** Whether it is coded by arithmetic (CABAC), or by variable lengths (CAVLC). */
  readonly arithmetic: boolean
  readonly pixelAspect: string
  readonly rate: Rate
  readonly colour: Colour
}

/** Macroblocks of a line, and lines of them: of a frame that may be of fields an even number. */
export function macroblocks(f: Pick<Format, 'width' | 'height' | 'fields' | 'adaptive'>) {
  const lines = Math.ceil(f.height / 16)
  return { width: Math.ceil(f.width / 16), height: ofFields(f) && lines % 2 ? lines + 1 : lines }
}

const ofFields = ({ fields, adaptive }: Pick<Format, 'fields' | 'adaptive'>) => fields !== null || adaptive === true

/** A NAL unit of the byte stream (Annex B), with its start code. */
export function unit(header: number, payload: Uint8Array): Uint8Array {
  return concatBytes([Uint8Array.of(0, 0, 0, 1, header), escapeNal(payload)])
}

/** An access unit delimiter: intra slices follow (7.3.2.4). */
export const delimiter = unit(9, Uint8Array.of(0x10))

/** High 10 Intra or High 4:2:2 Intra (A.2.8, A.2.9). */
export const profileOf = ({ chroma }: { readonly chroma: Format['chroma'] | '4:2:0' | '4:2:2' }) =>
  chroma === 2 || chroma === '4:2:2' ? 122 : 110

/** The sequence parameter set of a format (7.3.2.1.1, E.1.1). */
export function sequenceSet(f: Format): Uint8Array {
  const mbs = macroblocks(f)
  const w = new SliceWriter()
  w.u(8, profileOf(f)).u(8, 0x10).u(8, f.level).ue(0)
  w.ue(f.chroma)
    .ue(f.depth - 8)
    .ue(f.depth - 8)
    .u(2, 0)
  // frame numbers of four bits, picture order by its count of four bits, one reference frame
  w.ue(0).ue(0).ue(0).ue(1).u(1, 0)
  w.ue(mbs.width - 1).ue((ofFields(f) ? mbs.height >> 1 : mbs.height) - 1)
  if (ofFields(f)) w.u(1, 0).u(1, f.adaptive ? 1 : 0)
  else w.u(1, 1)
  w.u(1, 1)
  const unitY = (f.chroma === 1 ? 2 : 1) * (ofFields(f) ? 2 : 1)
  const [right, bottom] = [(mbs.width * 16 - f.width) / 2, (mbs.height * 16 - f.height) / unitY]
  if (right || bottom) w.u(1, 1).ue(0).ue(right).ue(0).ue(bottom)
  else w.u(1, 0)
  usability(w.u(1, 1), f)
  return unit(0x67, w.stop())
}

/** Shapes of pixels that have a number (table E-1): square ones, and those of 1440 and 960 pixels a line. */
const shapes: readonly string[] = [
  '',
  '1:1',
  '12:11',
  '10:11',
  '16:11',
  '40:33',
  '24:11',
  '20:11',
  '32:11',
  '80:33',
  '18:11',
  '15:11',
  '64:33',
  '160:99',
  '4:3',
]

function pixels(w: SliceWriter, aspect: string): void {
  const known = shapes.indexOf(aspect)
  if (known > 0) w.u(8, known)
  else {
    const [wide, high] = aspectParts(aspect)
    w.u(8, 255).u(16, wide).u(16, high)
  }
}

function usability(w: SliceWriter, { colour, rate, pixelAspect }: Format): void {
  pixels(w.u(1, 1), pixelAspect)
  // no overscan; the colour
  w.u(1, 0)
  w.u(1, 1)
    .u(3, 5)
    .u(1, colour.fullRange ? 1 : 0)
    .u(1, 1)
  w.u(8, colour.primaries).u(8, colour.transfer).u(8, colour.matrix)
  w.u(1, 0)
  // two ticks to a frame, always
  w.u(1, 1)
    .u(32, rate.den)
    .u(32, rate.num * 2)
    .u(1, 1)
  w.u(3, 0)
  // nothing is held back
  w.u(1, 1).u(1, 1).ue(0).ue(0).ue(16).ue(16).ue(0).ue(1)
}

/** The picture parameter set: the filter's control in slices, 8×8 transforms (7.3.2.2). */
export function pictureSet({ arithmetic }: Pick<Format, 'arithmetic'>): Uint8Array {
  const w = new SliceWriter()
  w.ue(0)
    .ue(0)
    .u(1, arithmetic ? 1 : 0)
    .u(1, 0)
    .ue(0)
    .ue(0)
    .ue(0)
    .u(3, 0)
  w.se(0).se(0).se(0).u(3, 4)
  w.u(1, 1).u(1, 0).se(0)
  return unit(0x68, w.stop())
}

/** The header of a slice (7.3.3): `field` is 0 for a frame, 1 for a top field, 2 for a bottom one. */
export function sliceHeader(
  w: SliceWriter,
  f: Format,
  slice: { first: number; field: number; second: boolean; qp: number; picture: number; filtered: boolean },
): void {
  w.ue(slice.first).ue(7).ue(0).u(4, 0)
  if (ofFields(f)) {
    w.u(1, slice.field === 0 ? 0 : 1)
    if (slice.field) w.u(1, slice.field - 1)
  }
  // idr_pic_id: another one than that of the picture before (7.4.3)
  if (!slice.second) w.ue(slice.picture % 2)
  w.u(4, slice.second ? 1 : 0)
  // marking: nothing special, of an IDR picture or of the field that follows one
  if (slice.second) w.u(1, 0)
  else w.u(2, 0)
  w.se(slice.qp - 26)
  if (slice.filtered) w.ue(0).se(0).se(0)
  else w.ue(1)
}
