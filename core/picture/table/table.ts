import type { TableStage } from '../../kernel/table'
import { fail } from '../../problem'

/** A look-up table as its file gives it: what R′, G′, B′ from 0 (black) to 1 (white) become. */
export interface LookUpTable {
  /** As the file calls itself; empty when it does not. */
  readonly name: string
  /** What it is, in a few words: `33³`, `matrix, 3 × 1024`. */
  readonly shape: string
  readonly stages: readonly TableStage[]
}

/** A kind of file that tables come in. */
export interface TableFormat {
  readonly name: string
  readonly label: string
  readonly extensions: readonly string[]
  /** Whether a text looks like one. */
  matches(text: string): boolean
  /** Reads a whole file; throws a problem that names the line or element. */
  read(text: string, name: string): LookUpTable
}

/** Points a side of a cube, and of a curve, at most. */
export const [largestGrid, largestCurve] = [129, 65_536] as const

/** Stages in a few words. */
export function shapeOf(stages: readonly TableStage[]): string {
  const words = stages.map((s) =>
    s.kind === 'grid'
      ? `${s.size}³`
      : s.kind === 'curves'
        ? `3 × ${s.points[0]!.length}`
        : { matrix: 'matrix', clamp: 'range', halves: 'curve' }[s.kind],
  )
  return words.filter((w, i) => w !== words[i - 1]).join(', ') || 'nothing'
}

/** Throws what is wrong with a table, and where. */
export function wrongTable(message: string, where: string): never {
  fail('table.damaged', message, where, 'Ask for the table anew, or write it again.')
}

/** Throws that a table has what is not read here. */
export function otherTable(message: string, where: string): never {
  fail('table.other', message, where, 'Ask for it as a cube, which any table can be written as.')
}
