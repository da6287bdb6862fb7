import type { Container } from '../container'
import { hex, keys } from './labels'
import { openMxf, structureFault } from './read'
import { layUnits } from './write'
import { mxfStructure } from './structure'

/** The Material Exchange Format (SMPTE ST 377-1): OP1a is read and written, OP-Atom read. */
export const mxf: Container = {
  name: 'mxf',
  brands: [{ name: 'mxf', label: 'MXF', extensions: ['.mxf'], mime: 'application/mxf', pictures: true }],
  recognise: (head) => keys.anyPartition.test(hex(head)),
  open: openMxf,
  structure: mxfStructure,
  metadata: true,
  start: true,
  units: layUnits,
  structureFault,
}
