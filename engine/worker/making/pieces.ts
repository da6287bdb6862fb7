import path from 'node:path'
import { concatBytes, fromBase64, toBase64 } from '../../../core/bytes'
import type { EncodedUnit, Encoder } from '../../../core/codec/codec'
import { fail } from '../../../core/problem'
import { fileSink, openFile } from '../../storage/disk'
import { claimedFile, type DeliverableStep } from '../context'
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

/**
 * Encodes what `feed` gives into a scratch file of this step's own: what the encoder has ready is written while it goes
 * on, so that a long piece is never held whole. `each` is told of every access unit.
 */
export async function encodePiece<Input>(
  step: DeliverableStep,
  encoder: Encoder<Input>,
  feed: () => AsyncIterable<Input>,
  each: (unit: EncodedUnit) => void = () => undefined,
): Promise<Piece> {
  const file = claimedFile(step, step.claim.key)
  const sink = await fileSink(file)
  const sizes: number[] = []
  const sync: number[] = []
  let at = 0
  let written: Promise<unknown> = Promise.resolve()
  const keep = async () => {
    const units = encoder.take()
    if (units.length === 0) return
    await written
    const from = at
    for (const u of units) {
      each(u)
      sizes.push(u.bytes.length)
      sync.push(u.sync ? 1 : 0)
      at += u.bytes.length
    }
    written = sink.write(from, concatBytes(units.map((u) => u.bytes)))
    // it is awaited with the next, or at the end; a failure before that is not to go unheard
    written.catch(() => undefined)
  }
  try {
    for await (const input of feed()) {
      await encoder.feed(input)
      await keep()
    }
    await encoder.flush()
    await keep()
    await written
    await sink.finish()
  } catch (e) {
    await written.catch(() => undefined)
    await sink.close().catch(() => undefined)
    throw e
  } finally {
    encoder.close()
  }
  const configuration = encoder.configuration()
  return { file: path.basename(file), configuration: configuration && toBase64(configuration), sizes, sync }
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
