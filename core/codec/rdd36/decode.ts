import { kernel, type Kernel } from '../../kernel/kernel'
import type { Picture } from '../../picture/picture'
import { PlainSlices, type SliceReader } from './blocks'
import { KernelSlices } from './fastblocks'
import { frameHead, picturesOf, type PictureHead } from './headers'
import { pictureOf, planesOf } from './planes'

/** Whether all slices of all pictures could be read. */
function readAll(pictures: readonly PictureHead[], reader: SliceReader): boolean {
  if (!pictures.every((p) => p.slices.every((s) => reader.read(p, s)))) return false
  reader.finish()
  return true
}

/**
 * Decodes a frame of SMPTE RDD 36 into 10 bits of 4:2:2, whatever it has; alpha is left out. `loops` as the machine has
 * them when absent; null is without. Throws a FrameFault where it is damaged.
 */
export function decodeFrame(unit: Uint8Array, loops: Kernel | null = kernel()): Picture {
  const head = frameHead(unit)
  const pictures = picturesOf(unit, head)
  const planes = planesOf(head)
  // what is damaged is for the plain reader to say
  if (!loops || !readAll(pictures, new KernelSlices(loops, unit, head, planes)))
    readAll(pictures, new PlainSlices(unit, head, planes))
  return pictureOf(planes, head)
}
