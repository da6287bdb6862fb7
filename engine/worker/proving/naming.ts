import { existsSync, readFileSync } from 'node:fs'
import { rm, stat } from 'node:fs/promises'
import path from 'node:path'
import { manifestOf } from '../../../core/deliverable/manifest'
import { checksumsFor } from '../../../core/deliverable/sheet'
import type { Sums } from '../../../core/files/checksums'
import { freePath, versionLabel } from '../../../core/deliverable/versions'
import { fileBase } from '../../../core/recipe/output'
import { entryOf, isRun } from '../../../core/files/fileset'
import { chaptersCsv, chaptersVtt } from '../../../core/timeline/formats/vtt'
import { sumsOfFile } from '../../storage/hashing'
import { isAsProven } from '../../storage/delivered'
import { flushFile, flushFolder, makeFolder, writeWhole } from '../../storage/durable'
import { moveFolderUnlessTaken, moveUnlessTaken, noneFree } from '../../storage/exclusive'
import { claimedFile, type DeliverableStep } from '../context'
import { mainFile, type Artefact, type Proof } from '../../../core/deliverable/proof'

/** The sums of a finished file that its outlet is sent; of a run of stills those of their lists. */
export async function sumsOf(step: DeliverableStep, file: string): Promise<Sums> {
  const kinds = checksumsFor(step.item)
  if (!isRun(file)) return sumsOfFile(file, kinds, () => step.progress(0))
  const each = await Promise.all(kinds.map((k) => sumsOfFile(manifestOf(file, k), [k])))
  return Object.assign({}, ...each) as Sums
}

/**
 * A crash may fall between naming what was made and noting that it was: then it is there under the noted name, and is
 * what was proven. When it fell between the two halves of the move of a file, the file has its scratch name as well.
 */
export async function alreadyNamed(
  step: DeliverableStep,
  scratch: string,
): Promise<{ proof: Proof; path: string } | null> {
  const noted = await step.sheets.noted(step.item.id)
  if (!noted) return null
  const full = step.storage.resolve(step.item.target.root, noted.path)
  if (existsSync(entryOf(scratch))) {
    if (!(await isSameFile(scratch, full))) return null
    await rm(scratch, { force: true })
  }
  return (await isAsProven(full, mainFile(noted.proof).sums)) ? noted : null
}

async function isSameFile(a: string, b: string): Promise<boolean> {
  const [x, y] = await Promise.all([a, b].map((f) => stat(f, { bigint: true }).catch(() => null)))
  return x !== null && x !== undefined && x.dev === y?.dev && x.ino === y.ino
}

/** A path with what comes between its name and its ending; a folder has no ending. */
const between = (wanted: string, ending: string, more: string) =>
  `${wanted.slice(0, wanted.length - ending.length)}${more}${ending}`

/**
 * Gives what was made, a file or the folder of a run of stills, its final name: synced, and never over another. A
 * proof is noted with it before.
 */
export async function nameFile(
  step: DeliverableStep,
  scratch: string,
  suffix: string,
  proof: Proof | null,
): Promise<string> {
  const { root, path: target } = step.item.target
  const run = isRun(target)
  const made = entryOf(scratch)
  await (run ? flushFolder(made) : flushFile(made))
  const entry = entryOf(target)
  const ending = run ? '' : path.extname(entry)
  const wanted = between(entry, ending, suffix)
  const exists = (p: string) => existsSync(step.storage.resolve(root, p))
  const next = (v: number) => (v === 1 ? wanted : between(wanted, ending, `_${versionLabel(v)}`))
  for (let tries = 0; tries < 20; tries++) {
    const { path: free } = freePath(next, exists)
    const named = run ? `${free}/${path.basename(target)}` : free
    const full = step.storage.resolve(root, free)
    await makeFolder(path.dirname(full))
    if (proof) await step.sheets.note(step.claim, step.item, named, proof)
    else await step.hold()
    if (await (run ? moveFolderUnlessTaken : moveUnlessTaken)(made, full)) return named
  }
  return noneFree(wanted)
}

/** Puts the chapters beside a finished file, as WebVTT and as CSV. */
export async function writeChapters(step: DeliverableStep, finalPath: string): Promise<Artefact[]> {
  const { item } = step
  if (item.chapters.length === 0) return []
  const base = fileBase(item)
  const texts = [
    ['.chapters.vtt', chaptersVtt(item.chapters, item.output.frames, base.rate)],
    ['.chapters.csv', chaptersCsv(item.chapters, base)],
  ] as const
  const files: Artefact[] = []
  for (const [ending, text] of texts)
    files.push(await writeBeside(step, finalPath, ending, Buffer.from(text), 'chapters'))
  return files
}

/** Puts something beside a finished file, under its name with an ending; a name that is taken is left alone. */
export async function writeBeside(
  step: DeliverableStep,
  finalPath: string,
  ending: string,
  bytes: Buffer,
  role: Artefact['role'],
): Promise<Artefact> {
  const entry = entryOf(finalPath)
  const name = `${isRun(finalPath) ? entry : entry.slice(0, -path.extname(entry).length)}${ending}`
  const full = (p: string) => step.storage.resolve(step.item.target.root, p)
  // what is there and is the same was written before a crash
  const taken = (p: string) => existsSync(full(p)) && !readFileSync(full(p)).equals(bytes)
  const next = (v: number) => (v === 1 ? name : between(name, path.extname(name), `_${versionLabel(v)}`))
  const scratch = claimedFile(step, path.basename(name))
  await writeWhole(scratch, bytes)
  for (let tries = 0; tries < 20; tries++) {
    const { path: free } = freePath(next, taken)
    const there = existsSync(full(free))
    if (there || (await moveUnlessTaken(scratch, full(free)))) {
      if (there) await rm(scratch)
      return { role, path: free, size: bytes.length, sums: await sumsOf(step, full(free)) }
    }
  }
  return noneFree(name)
}
