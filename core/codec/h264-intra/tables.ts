import { concatBytes } from '../../bytes'
import {
  patternCodes,
  patterns,
  runs,
  tokens,
  tokensDc420,
  tokensDc422,
  zeros4x4,
  zerosDc420,
  zerosDc422,
  type Codes,
} from './codes'
import { scans } from './parameters'
import { dcOrder } from './rebuild'
import { read, type Lookup } from './slicebits'
import { chromaQp, factors4, factors8, scales4, scales8, type Weights } from './transform'

/** By how much, summed over a block, a mode must be better than the likely one, which takes three bits less; by QP′. */
export const penalties = Int32Array.from({ length: 64 }, (_, qp) => Math.round(2 * 2 ** ((qp - 12) / 6)))

/** Codes of a list in a row of `size`, the length in the upper half of each. */
const packed = (codes: Codes, size: number) =>
  Array.from({ length: size }, (_, i) => (codes[i] ? (codes[i].length << 16) | codes[i].bits : 0))

const codeNumbers = Uint32Array.from([
  ...[...tokens, tokensDc420, tokensDc422].flatMap((t) => packed(t, 68)),
  ...[...zeros4x4, ...zerosDc420, ...zerosDc422].flatMap((t) => packed(t, 16)),
  ...runs.flatMap((t) => packed(t, 16)),
])

/** A list's patterns brought to `bits` bits each. */
function widened({ bits, table }: Lookup, wanted: number): Uint16Array {
  const out = new Uint16Array(1 << wanted)
  const each = 1 << (wanted - bits)
  table.forEach((v, i) => out.fill(v, i * each, (i + 1) * each))
  return out
}

let made: Uint8Array | undefined

/** What is read by, made when it is asked for first. */
function patternsRead(): Uint8Array {
  const lists = [
    ...[...read.tokens, read.dc420, read.dc422].map((t) => widened(t, 16)),
    ...[...read.zeros4x4, ...read.zeros420, ...read.zeros422].map((t) => widened(t, 9)),
    ...read.runs.map((t) => widened(t, 11)),
  ]
  return (made = concatBytes([...lists.map((l) => new Uint8Array(l.buffer)), patterns]))
}

/** What a picture is coded by, as its parameter sets say. */
export interface Coding {
  readonly chromaLines: 8 | 16
  readonly depth: number
  readonly weights: Weights
  readonly chromaOffsets: readonly [number, number]
}

/** Everything the kernel looks up in a picture, in the order of kernel/assembly/intra/tables.ts. */
export function kernelTables({ chromaLines, depth, weights, chromaOffsets }: Coding): Uint8Array {
  const small = new Uint8Array(224)
  for (const [at, scan] of [[0, scans.frame] as const, [80, scans.field] as const]) {
    small.set(scan.four, at)
    scan.eight.forEach((part, k) => small.set(part, at + 16 + k * 16))
  }
  small.set(dcOrder[chromaLines], 160)
  small.set(patternCodes, 168)
  const extra = 6 * (depth - 8)
  const chroma = chromaOffsets.map((offset) =>
    Array.from({ length: 64 }, (_, qp) => (qp <= 51 + extra ? chromaQp(qp - extra, offset, extra) : 0)),
  )
  const scales = [...weights.four.flatMap(scales4), ...scales8(weights.eight)]
  const numbers = Int32Array.from([...factors4, ...factors8, ...scales, ...chroma, penalties].flatMap((a) => [...a]))
  return concatBytes([
    new Uint8Array(codeNumbers.buffer),
    small,
    new Uint8Array(numbers.buffer),
    made ?? patternsRead(),
  ])
}
