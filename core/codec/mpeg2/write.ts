import type { BitWriter } from '../../bits'
import { aspectValue } from '../../media/aspect'
import type { Colour, Scan } from '../../media/media'
import type { Frames, Rate } from '../../time/rate'
import { formatTimecode, labelParts } from '../../time/timecode'
import { frameRates, shapes } from './describe'
import type { Form } from './forms'
import { starts } from './headers'

// Headers of a stream of intra pictures, as they are written (ITU-T H.262 6.2.2, 6.2.3).

/** What a stream of intra pictures is. */
export interface IntraFormat {
  readonly form: Form
  readonly rate: Rate
  readonly scan: Scan
  /** Of every picture. */
  readonly bytes: number
  readonly colour: Colour
  readonly pixelAspect: string
  /** The label of the file's first frame. */
  readonly start: { readonly frames: Frames; readonly dropFrame: boolean }
}

/** How means are coded: in ten bits. */
export const meanPrecision = 2

/** aspect_ratio_information: square, or of a shape to be shown in, as near as its lines let it be (table 6-3). */
export function aspectCode({ form, pixelAspect }: Pick<IntraFormat, 'form' | 'pixelAspect'>): number {
  const wide = (form.width / form.height) * aspectValue(pixelAspect)
  const near = shapes.findIndex((s) => s !== null && Math.abs(wide / (s[0] / s[1]) - 1) < 0.03)
  return near < 0 ? 1 : near
}

/** A start code, on a whole byte. */
function start(w: BitWriter, code: number): BitWriter {
  return w.align().u(24, 1).u(8, code)
}

/** The headers in front of a picture: sequence, group, picture; each picture is a group of its own. */
export function writeHeads(w: BitWriter, f: IntraFormat, frame: Frames): void {
  sequence(w, f)
  const [h, m, s, n] = labelParts(
    formatTimecode(f.start.frames + frame, { rate: f.rate, dropFrame: f.start.dropFrame }),
  )
  start(w, starts.group)
    .u(1, f.start.dropFrame ? 1 : 0)
    .u(5, h)
    .u(6, m)
    .u(1, 1)
    .u(6, s)
    .u(6, n)
    // nothing in it leans on the group before
    .u(2, 0b10)
  start(w, starts.picture).u(10, 0).u(3, 1).u(16, 0xffff).u(1, 0)
  const moving = f.scan === 'interlaced-tff' || f.scan === 'interlaced-bff'
  // no vectors; a frame; which field is first; lines by macroblock; none concealed; the other scale; table B.15
  start(w, starts.extension).u(4, 8).u(16, 0xffff).u(2, meanPrecision).u(2, 3)
  w.u(1, f.scan === 'segmented' || f.scan === 'interlaced-tff' ? 1 : 0)
    .u(1, moving ? 0 : 1)
    .u(1, 0)
    .u(1, 1)
    .u(1, 1)
    .u(1, moving ? 1 : 0)
    .u(1, 0)
    .u(1, moving ? 0 : 1)
    .u(1, moving ? 0 : 1)
    .u(1, 0)
}

function sequence(w: BitWriter, f: IntraFormat): void {
  const { form, rate, bytes, colour } = f
  const lines = form.d10 ? form.lines : form.height
  const code = frameRates.findIndex((r) => r !== null && r[0] === rate.num && r[1] === rate.den)
  const units = Math.ceil((bytes * 8 * rate.num) / (rate.den * 400))
  const buffer = Math.ceil((bytes * 8) / 16384)
  start(w, starts.sequence).u(12, form.width).u(12, lines).u(4, aspectCode(f)).u(4, code)
  w.u(18, units & 0x3ffff)
    .u(1, 1)
    .u(10, buffer & 0x3ff)
    .u(3, 0)
  start(w, starts.extension).u(4, 1).u(8, form.profileLevel)
  w.u(1, f.scan === 'progressive' ? 1 : 0)
    .u(2, 2)
    .u(4, 0)
    .u(12, units >> 18)
    .u(1, 1)
    .u(8, buffer >> 10)
    // no pictures that lean on others: nothing is held back
    .u(1, 1)
    .u(7, 0)
  // unspecified video; its colour; what of it is shown
  start(w, starts.extension).u(4, 2).u(3, 5).u(1, 1)
  w.u(8, colour.primaries).u(8, colour.transfer).u(8, colour.matrix)
  w.u(14, form.width).u(1, 1).u(14, form.height)
}

/** Begins the slice of a line of macroblocks. */
export function writeSliceHead(w: BitWriter, line: number, quantiser: number): void {
  start(w, line + 1)
    .u(5, quantiser)
    .u(1, 0)
}
