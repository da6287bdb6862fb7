import { kernel, type Kernel } from '../../kernel/kernel'
import { StreamFault } from './bits'
import { KernelSlices } from './fastslices'
import { emptyFrame, type Frame } from './frame'
import {
  partsOf,
  pictureExtended,
  pictureHead,
  sequenceExtended,
  sequenceHead,
  starts,
  weightsExtended,
  type Part,
  type PictureHead,
  type Sequence,
  type Weights,
} from './headers'
import { Slice, type PictureWork, type SliceReader } from './slice'

/** A frame out of an access unit. */
export interface DecodedFrame {
  readonly sequence: Sequence
  readonly frame: Frame
}

/** Decodes access units in the order they are coded: each a frame, or two fields. */
export class Mpeg2Decoder {
  private sequence: Sequence | null = null
  private weights: Weights | null = null
  /** The last two frames that others lean on. */
  private older: Frame | null = null
  private newer: Frame | null = null

  /** `loops` as the machine has them when absent; null is without. */
  constructor(private readonly loops = kernel()) {}

  /** Forgets what was decoded: the next unit leans on nothing. */
  reset(): void {
    this.older = null
    this.newer = null
  }

  /** Takes the headers of a unit in, for pictures that come without them. */
  prime(unit: Uint8Array): void {
    for (const part of partsOf(unit)) {
      if (part.code === starts.picture) return
      if (part.code === starts.sequence) this.begin(unit, part)
      else if (part.code === starts.extension) this.extended(unit, part, null)
    }
  }

  decode(unit: Uint8Array): DecodedFrame {
    const parts = partsOf(unit)
    const kept = [this.older, this.newer]
    const frame = this.loops && this.fast(this.loops, unit, parts)
    if (frame) return frame
    // what is damaged is for the plain reader to say, and to show what is left of it
    ;[this.older, this.newer] = kept as [Frame | null, Frame | null]
    return this.frameOf(unit, parts, plainSlices(unit))!
  }

  /** The frame of a unit by the kernel; null where anything is wrong with it. */
  private fast(loops: Kernel, unit: Uint8Array, parts: readonly Part[]): DecodedFrame | null {
    const leans = !parts.every((p) => isIntra(unit, p))
    try {
      return this.frameOf(unit, parts, new KernelSlices(loops, unit, leans))
    } catch (e) {
      if (e instanceof StreamFault) return null
      throw e
    }
  }

  /** The frame of a unit; null where its slices cannot be read in this way. */
  private frameOf(unit: Uint8Array, parts: readonly Part[], slices: SliceReader): DecodedFrame | null {
    let frame: Frame | null = null
    let head: PictureHead | null = null
    // macroblocks that are there, and which picture of the frame is in hand: of two, where they are fields
    const there = new Set<number>()
    let pictures = 0
    let inSlices = false
    for (const part of parts) {
      const isSlice = part.code >= 1 && part.code <= 0xaf
      if (part.code === starts.sequence) this.begin(unit, part)
      else if (part.code === starts.extension) head = this.extended(unit, part, head)
      else if (part.code === starts.picture) head = pictureHead(unit, part)
      else if (isSlice && head) {
        frame ??= this.newFrame(head)
        if (!inSlices) pictures++
        const found = slices.read(part, this.work(head, frame, pictures === 2))
        if (!found) return null
        for (let k = found[0]; k <= found[1]; k++) there.add(head.structure === 2 ? -1 - k : k)
      }
      inSlices = isSlice
    }
    if (!frame || !this.sequence) return nothing('no picture')
    const wanted = (frame.width / 16) * (frame.height / 16)
    if (there.size < wanted) nothing(`${wanted - there.size} of ${wanted} macroblocks are missing`)
    slices.finish(frame)
    return { sequence: this.sequence, frame }
  }

  private begin(unit: Uint8Array, part: Part): void {
    this.sequence = sequenceHead(unit, part)
    this.weights = this.sequence.weights
  }

  private extended(unit: Uint8Array, part: Part, head: PictureHead | null): PictureHead | null {
    if (!this.sequence || !this.weights) throw new StreamFault('a picture before its sequence', part.from * 8)
    if (!head) {
      this.sequence = sequenceExtended(this.sequence, unit, part)
      return null
    }
    this.weights = weightsExtended(this.weights, unit, part)
    return pictureExtended(head, unit, part)
  }

  /** The frame that a picture is decoded into; one that others lean on takes the place of the older one. */
  private newFrame(head: PictureHead): Frame {
    const s = this.sequence ?? nothing('a picture before its sequence')
    if (s.profileLevel === null) nothing('a picture of MPEG-1')
    if (s.chroma === 3) nothing('pictures of 4:4:4')
    // more than twice what any level has
    if (s.width * s.height > 4096 * 2304) nothing(`pictures of ${s.width}×${s.height}`)
    const width = Math.ceil(s.width / 16) * 16
    const height = s.progressive ? Math.ceil(s.height / 16) * 16 : Math.ceil(s.height / 32) * 32
    const frame = emptyFrame(width, height, s.chroma === 2)
    if (head.kind !== 3) {
      this.older = this.newer
      this.newer = frame
    }
    return frame
  }

  private work(head: PictureHead, frame: Frame, second: boolean): PictureWork {
    if (head.reaches.length === 0) nothing('a picture without its extension')
    const leans = head.kind === 3
    return {
      ...{ head, frame, second },
      weights: this.weights!,
      chroma422: frame.chromaHeight === frame.height,
      before: this.older,
      after: leans ? this.newer : null,
      columns: frame.width / 16,
      rows: frame.height / (head.structure === 3 ? 16 : 32),
    }
  }
}

/** Whether a part is no picture, or one that stands alone. */
const isIntra = (unit: Uint8Array, { code, from }: Part) =>
  code !== starts.picture || (((unit[from + 1] ?? 0) >> 3) & 7) === 1

const plainSlices = (unit: Uint8Array): SliceReader => ({
  read: (part, work) => new Slice(work, unit, part).decode(),
  finish: () => undefined,
})

function nothing(what: string): never {
  throw new StreamFault(what, 0)
}
