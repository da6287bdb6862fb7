import { listed } from '../../text'
import { clf } from './clf'
import { cube } from './cube'
import { otherTable, type LookUpTable, type TableFormat } from './table'

/** Formats of look-up tables: a new one is its own file and its line here. */
export const tableFormats: readonly TableFormat[] = [clf, cube]

/** Reads a table of any format that is known here. */
export function readTable(text: string, name: string): LookUpTable {
  const format = tableFormats.find((f) => f.matches(text))
  if (!format) {
    const labels = tableFormats.map((f) => `${f.label} (${f.extensions[0]!})`)
    return otherTable(`This is no look-up table that is read here: ${listed(labels, 'or')}.`, name)
  }
  return format.read(text, name)
}
