import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { createXXHash32 } from 'hash-wasm'
import { packTrace, traceSize, unpackTrace, type Trace } from '../../../core/analysis/trace'
import { spreadFrames } from '../../../core/deliverable/spread'
import { codesPictures } from '../../../core/job/taking'
import { frameInFile, isMade, placed, sectionAt } from '../../../core/lineup/lineup'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import { fileBase } from '../../../core/recipe/output'
import type { Frames } from '../../../core/time/rate'
import { writeWhole } from '../../storage/durable'
import { claimedFile, type DeliverableStep } from '../context'

// What is kept of pictures as they go into an encoder, for the proof to hold the file against.

/** What a file is held against whose coded pictures are known. */
export interface CodedPictures {
  /** XXH32 of every access unit as it went in, in decode order: eight hexadecimal digits each, or {@link unsummed}. */
  readonly sums: string
  /** Scratch files of packed traces of the {@link lookedAt} frames, in order. */
  readonly looks: readonly string[]
}

/** As {@link CodedPictures}; without sums of stills, whose files are summed. */
export type HeldPictures = Pick<CodedPictures, 'looks'> & Partial<CodedPictures>

/** Stands for the sum of a picture that was made for the file: it is held against what was made. */
export const unsummed = '--------'

/** Frames of the file, in order, whose pictures are looked at before they are encoded: of those of the timeline. */
export function lookedAt({ steps, region, output, timeline, recipe }: FrozenDeliverable): Frames[] {
  const joints = steps.filter((s) => codesPictures(s.kind)).map((s) => frameInFile(output, s.range.in - region.in)!)
  const frames = spreadFrames(output.frames, fileBase({ output, timeline }).rate, joints, recipe.proofSpread || 1)
  return frames.filter((n) => !isMade(sectionAt(placed(output), n)))
}

/** Keeps traces in a scratch file of this step's own; gives its name. */
export async function saveLooks(step: DeliverableStep, traces: readonly Trace[]): Promise<string> {
  const file = claimedFile(step, `${step.claim.key}-looks`)
  await writeWhole(file, Buffer.concat(traces.map(packTrace)))
  return path.basename(file)
}

/** What is known of pictures that were written into their places of a file, from a frame of it on. */
export interface PartInPlace extends CodedPictures {
  readonly first: Frames
}

/** What is known of a file that was written part by part; null unless it is of all of the timeline's pictures. */
export function partsTogether(parts: readonly PartInPlace[], { output }: FrozenDeliverable): CodedPictures | null {
  const inOrder = [...parts].sort((a, b) => a.first - b.first)
  const sums = placed(output).map((s) => {
    if (isMade(s)) return unsummed.repeat(s.frames)
    const own = inOrder.filter((p) => p.first >= s.at && p.first < s.at + s.frames)
    return own.map((p) => p.sums).join('')
  })
  const whole = sums.join('')
  return whole.length === output.frames * 8 ? { sums: whole, looks: inOrder.flatMap((p) => p.looks) } : null
}

/** All traces of scratch files, one after the other. */
export async function readLooks(folder: string, files: readonly string[]): Promise<Trace[]> {
  const bytes = Buffer.concat(await Promise.all(files.map((f) => readFile(path.join(folder, f)))))
  return Array.from({ length: bytes.length / traceSize }, (_, i) =>
    unpackTrace(bytes.subarray(i * traceSize, (i + 1) * traceSize)),
  )
}

/** The sum of an access unit, as {@link CodedPictures} keeps it. */
export async function unitSummer(): Promise<(unit: Uint8Array) => string> {
  const hash = await createXXHash32()
  return (unit) => hash.init().update(unit).digest()
}
