import { said, type Measure } from '../measure'

/**
 * How an MXF file is built as a whole (SMPTE ST 377-1 8.3): `OP1a`, `OP-Atom`; `none` of files that have no such
 * thing.
 */
export const operationalPattern: Measure = {
  name: 'operational-pattern',
  label: 'Operational pattern',
  group: 'structure',
  read: ({ described: d }) => (d ? said(d.structure?.pattern ?? 'none') : null),
}
