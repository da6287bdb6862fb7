import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { createXXHash32 } from 'hash-wasm'
import { proofSpread, spreadFrames } from '../../../core/deliverable/spread'
import { codesPictures } from '../../../core/job/taking'
import { frameInFile, isMade, placed, sectionAt } from '../../../core/lineup/lineup'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import { lookOf, lookSize, type Look } from '../../../core/picture/look'
import type { Picture } from '../../../core/picture/picture'
import { fileBase } from '../../../core/recipe/output'
import type { Frames } from '../../../core/time/rate'
import { writeWhole } from '../../storage/durable'
import { claimedFile, type DeliverableStep } from '../context'

// What is kept of pictures as they go into an encoder, for the proof to hold the file against.

/** What a file is held against whose coded pictures are known. */
export interface CodedPictures {
  /** XXH32 of every access unit as it went in, in decode order: eight hexadecimal digits each, or {@link unsummed}. */
  readonly sums: string
  /** Scratch files that {@link looksKept} were saved in, in order of frames. */
  readonly looks: readonly string[]
}

/** As {@link CodedPictures}; without sums of stills, whose files are summed. */
export type HeldPictures = Pick<CodedPictures, 'looks'> & Partial<CodedPictures>

/** Stands for the sum of a picture that was made for the file: it is held against what was made. */
export const unsummed = '--------'

/**
 * Frames of the file, in order, whose pictures are at least looked at before they are encoded: of the timeline's.
 */
export function lookedAt({ steps, region, output, timeline, recipe }: FrozenDeliverable): Frames[] {
  const joints = steps.filter((s) => codesPictures(s.kind)).map((s) => frameInFile(output, s.range.in - region.in)!)
  const frames = spreadFrames(output.frames, fileBase({ output, timeline }).rate, joints, recipe.proofSpread || 1)
  return frames.filter((n) => !isMade(sectionAt(placed(output), n)))
}

/** What is kept of a picture: the frame of the file, in four bytes, and its look. */
const keptSize = 4 + lookSize

/** Keeps what is looked at of a step's pictures. */
export interface Looks {
  /** Takes the picture of a frame of the file; frames come in order. */
  take(n: Frames, picture: Picture): void
  /** Saves them in a scratch file of this step's own; gives its name. */
  save(): Promise<string>
}

export function looksKept(step: DeliverableStep): Looks {
  const looks: Uint8Array[] = []
  return {
    take(n, picture) {
      const frame = Buffer.alloc(4)
      frame.writeUInt32BE(n)
      looks.push(frame, lookOf(picture))
    },
    async save() {
      const file = claimedFile(step, `${step.claim.key}-looks`)
      await writeWhole(file, Buffer.concat(looks))
      return path.basename(file)
    },
  }
}

/** As {@link looksKept}, of those of the timeline's pictures that the proof decodes: where it decodes all, of all. */
export function looksForProof(step: DeliverableStep): Looks {
  const { recipe, spec, output } = step.item
  const looks = looksKept(step)
  const some = proofSpread(recipe, spec) === 0 ? null : new Set(lookedAt(step.item))
  const sections = placed(output)
  const isWanted = (n: Frames) => (some ? some.has(n) : !isMade(sectionAt(sections, n)))
  return { ...looks, take: (n, picture) => void (isWanted(n) && looks.take(n, picture)) }
}

/**
 * Reads looks again, one scratch file after the other. Gives what was kept of a frame, null where nothing was: frames
 * are asked for in order.
 */
export function looksOf(folder: string, files: readonly string[]): (n: Frames) => Promise<Look | null> {
  let bytes = Buffer.alloc(0)
  let at = 0
  let next = 0
  return async (n) => {
    for (;;) {
      if (at + keptSize > bytes.length) {
        const file = files[next++]
        if (file === undefined) return null
        bytes = await readFile(path.join(folder, file))
        at = 0
        continue
      }
      const frame = bytes.readUInt32BE(at)
      if (frame > n) return null
      const from = at + 4
      at += keptSize
      if (frame === n) return bytes.subarray(from, at)
    }
  }
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

/** The sum of an access unit, as {@link CodedPictures} keeps it. */
export async function unitSummer(): Promise<(unit: Uint8Array) => string> {
  const hash = await createXXHash32()
  return (unit) => hash.init().update(unit).digest()
}
