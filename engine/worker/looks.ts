import { readFile, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { createXXHash32 } from 'hash-wasm'
import { packTrace, traceSize, unpackTrace, type Trace } from '../../core/analysis/trace'
import { spreadFrames } from '../../core/deliverable/spread'
import { stepKind } from '../../core/job/steps'
import { frameInFile } from '../../core/lineup/lineup'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { fileBase } from '../../core/recipe/output'
import type { Frames } from '../../core/time/rate'
import { claimedFile, type DeliverableStep } from './context'

// What is kept of pictures as they go into an encoder, for the proof to hold the file against.

/** What a joined file is held against. */
export interface CodedPictures {
  /** XXH32 of every access unit as the encoder gave it, in decode order: eight hexadecimal digits each. */
  readonly sums: string
  /** Scratch files of packed traces of the {@link lookedAt} frames, in order. */
  readonly looks: readonly string[]
}

/** Frames of the file, in order, whose pictures are looked at before they are encoded. */
export function lookedAt({ steps, region, output, timeline, recipe }: FrozenDeliverable): Frames[] {
  const joints = steps.filter((s) => stepKind(s.kind).joined).map((s) => frameInFile(output, s.range.in - region.in)!)
  return spreadFrames(output.frames, fileBase({ output, timeline }).rate, joints, recipe.proofSpread || 1)
}

/** Keeps traces in a scratch file of this step's own; gives its name. */
export async function saveLooks(step: DeliverableStep, traces: readonly Trace[]): Promise<string> {
  const file = claimedFile(step, `${step.claim.key}-looks`)
  await writeFile(file, Buffer.concat(traces.map(packTrace)))
  return path.basename(file)
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
