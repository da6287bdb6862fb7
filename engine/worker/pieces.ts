import path from 'node:path'
import { fromBase64, toBase64 } from '../../core/bytes'
import type { EncodedUnit } from '../../core/codec/codec'
import { fail } from '../../core/problem'
import { fileSink, openFile } from '../storage/disk'
import { claimedFile, type DeliverableStep } from './context'
import type { CodedPictures } from './looks'

/** Coded samples in a scratch file, and how to cut it into samples again: a step's result. */
export interface Piece {
  /** Below the deliverable's scratch folder. */
  readonly file: string
  /** What the codec keeps for its decoder, as base64; null when it has no such thing. */
  readonly configuration: string | null
  readonly sizes: readonly number[]
  readonly sync: readonly number[]
  /** What the proof holds pictures against. */
  readonly coded?: CodedPictures
}

/** Keeps coded samples in a scratch file of this step's own. */
export async function savePiece(
  step: DeliverableStep,
  units: readonly EncodedUnit[],
  configuration: Uint8Array | null,
): Promise<Piece> {
  const file = claimedFile(step, step.claim.key)
  const sink = await fileSink(file)
  let at = 0
  for (const u of units) {
    await sink.write(at, u.bytes)
    at += u.bytes.length
  }
  await sink.finish()
  return {
    file: path.basename(file),
    configuration: configuration && toBase64(configuration),
    sizes: units.map((u) => u.bytes.length),
    sync: units.map((u) => (u.sync ? 1 : 0)),
  }
}

export function configurationOf(piece: Piece): Uint8Array | null {
  return piece.configuration === null ? null : fromBase64(piece.configuration)
}

/** Files read one after the other as if they were one. */
export async function chain(files: readonly string[]) {
  const open = await Promise.all(files.map((f) => openFile(f)))
  let index = 0
  let at = 0
  return {
    async next(length: number): Promise<Uint8Array> {
      const out = new Uint8Array(length)
      let filled = 0
      while (filled < length) {
        const file =
          open[index] ??
          fail(
            'scratch.short',
            'A scratch file is shorter than it was when it was written.',
            files.at(-1),
            'Run it again.',
          )
        const part = await file.read(at, length - filled)
        out.set(part, filled)
        filled += part.length
        at += part.length
        if (at >= file.size) {
          index++
          at = 0
        }
      }
      return out
    },
    close: async () => void (await Promise.all(open.map((f) => f.close()))),
  }
}
