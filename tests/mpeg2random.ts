import {
  coefficients0,
  coefficients1,
  has,
  increments,
  kinds,
  meanSizes,
  motions,
  patterns,
} from '../core/codec/mpeg2/tables'
import { codesOf, Out, sequence, type StreamShape } from './mpeg2streams'

// Streams of MPEG-2 that show nothing but use all that its pictures may have: macroblocks drawn by lot.

/** A number from 0 up to 1, the next of a row. */
type Lot = () => number

/** What the pictures of a stream have in common, by lot. */
interface PictureForm {
  readonly kind: 1 | 2 | 3
  readonly structure: 1 | 2 | 3
  readonly reach: number
  readonly frameOnly: boolean
  readonly concealed: boolean
  readonly intraCodes: boolean
}

/** Draws pictures macroblock by macroblock. */
class Drawer {
  constructor(
    private readonly o: Out,
    private readonly shape: StreamShape,
    private readonly lot: Lot,
  ) {}

  private below(n: number): number {
    return Math.floor(this.lot() * n)
  }

  private bit(of = 0.5): number {
    return this.lot() < of ? 1 : 0
  }

  private bits(n: number): void {
    for (let i = 0; i < n; i++) this.o.put(this.bit(), 1)
  }

  picture(kind: 1 | 2 | 3, structure: 1 | 2 | 3): void {
    const { o } = this
    const progressive = this.shape.structure === 'progressive'
    const form: PictureForm = {
      ...{ kind, structure, reach: 1 + this.below(6) },
      frameOnly: structure === 3 && (progressive || this.bit(0.2) === 1),
      ...{ concealed: this.bit(0.3) === 1, intraCodes: this.bit() === 1 },
    }
    o.start(0).put(0, 10).put(kind, 3).put(0xffff, 16)
    if (kind > 1) o.put(7, 4)
    if (kind === 3) o.put(7, 4)
    o.put(0, 1)
    o.start(0xb5).put(8, 4)
    for (let i = 0; i < 4; i++) o.put(form.reach, 4)
    o.put(this.below(4), 2).put(structure, 2).put(this.bit(), 1).put(Number(form.frameOnly), 1)
    o.put(Number(form.concealed), 1).put(this.bit(), 1).put(Number(form.intraCodes), 1).put(this.bit(), 1)
    o.put(0, 1).put(Number(progressive), 1).put(Number(progressive), 1).put(0, 1)
    const rows = this.shape.height / (structure === 3 ? 16 : 32)
    for (let row = 0; row < rows; row++) this.row(form, row)
  }

  /** A line of macroblocks: one slice or several. */
  private row(form: PictureForm, row: number): void {
    const { o } = this
    const columns = this.shape.width / 16
    const kindsHere = [...codesOf(kinds[form.kind]!).keys()]
    let [at, mayMiss, missed] = [-1, false, false]
    for (let x = 0; x < columns; x++) {
      // behind one that is missing no slice begins
      if (x === 0 || (!missed && this.bit(0.15))) {
        o.start(row + 1).put(1 + this.below(31), 5)
        o.put(0, 1)
        at = -1
      } else if (mayMiss && x < columns - 1 && this.bit(0.25)) {
        missed = true
        continue
      }
      missed = false
      let on = x - at
      for (; on > 33; on -= 33) o.code(increments, 0)
      o.code(increments, on)
      at = x
      const type = kindsHere[this.below(kindsHere.length)]!
      this.macroblock(form, type)
      mayMiss = form.kind === 2 || (form.kind === 3 && (type & has.intra) === 0)
    }
  }

  private macroblock(form: PictureForm, type: number): void {
    const { o } = this
    const { chroma422 } = this.shape
    const ofFrame = form.structure === 3
    const moves = (type & (has.forward | has.backward)) !== 0
    const intra = (type & has.intra) !== 0
    o.code(kinds[form.kind]!, type)
    let motion = ofFrame ? 2 : 1
    if (moves && !(ofFrame && form.frameOnly)) {
      motion = 1 + this.below(form.kind === 2 ? 3 : 2)
      o.put(motion, 2)
    }
    if (ofFrame && !form.frameOnly && (type & (has.intra | has.pattern)) !== 0) o.put(this.bit(), 1)
    if (type & has.quant) o.put(1 + this.below(31), 5)
    const conceals = intra && form.concealed
    if (type & has.forward || conceals) this.vectors(form, motion)
    if (type & has.backward) this.vectors(form, motion)
    if (conceals) o.put(1, 1)
    const count = chroma422 ? 8 : 6
    let pattern = (1 << count) - 1
    if (!intra) {
      if (!(type & has.pattern)) return
      const six = 1 + this.below(63)
      const rest = this.below(4)
      o.code(patterns, six)
      if (chroma422) o.put(rest, 2)
      pattern = chroma422 ? (six << 2) | rest : six
    }
    for (let i = 0; i < count; i++) if (pattern & (1 << (count - 1 - i))) this.block(form, intra, i < 4)
  }

  private vectors(form: PictureForm, motion: number): void {
    const ofFrame = form.structure === 3
    const two = ofFrame ? motion === 1 : motion === 2
    const dual = motion === 3
    for (let r = 0; r < (two ? 2 : 1); r++) {
      if (!(ofFrame && motion === 2) && !dual) this.o.put(this.bit(), 1)
      for (let t = 0; t < 2; t++) {
        const code = this.below(17)
        this.o.code(motions, code)
        if (code > 0) this.bits(form.reach)
        if (dual && this.bit()) this.o.put(1, 1).put(this.bit(), 1)
        else if (dual) this.o.put(0, 1)
      }
    }
  }

  private block(form: PictureForm, intra: boolean, luma: boolean): void {
    const { o } = this
    const codes = intra && form.intraCodes ? coefficients1 : coefficients0
    if (intra) {
      const size = this.below(7)
      o.code(meanSizes[luma ? 0 : 1], size)
      this.bits(size)
    }
    let first = !intra
    for (let i = intra ? 1 : 0; first || this.bit(0.7); first = false) {
      const run = this.below(4)
      const level = this.bit(0.8) ? 1 + this.below(3) : 1 + this.below(2000)
      if (i + run > 63) break
      i += run + 1
      const pair = (run << 6) | level
      if (first && pair === 1) o.put(1, 1).put(this.bit(), 1)
      else if (level < 64 && codesOf(codes).has(pair)) o.code(codes, pair).put(this.bit(), 1)
      else
        o.code(codes, -2)
          .put(run, 6)
          .put(this.bit() ? level : -level & 0xfff, 12)
    }
    o.code(codes, -1)
  }
}

/** Access units by lot, in the order they are coded: I, P, P, B, B, P; each a frame, or two fields. */
export function randomStream(shape: StreamShape, lot: Lot): Uint8Array[] {
  return ([1, 2, 2, 3, 3, 2] as const).map((kind, n) => {
    const o = new Out()
    if (n === 0) sequence(o, shape)
    const drawer = new Drawer(o, shape, lot)
    // the second field of a P picture may lean on the first
    for (const structure of shape.structure === 'fields' ? ([1, 2] as const) : ([3] as const))
      drawer.picture(kind, structure)
    return Uint8Array.from(o.bytes())
  })
}
