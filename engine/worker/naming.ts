import { createHash } from 'node:crypto'
import { existsSync, readFileSync } from 'node:fs'
import { mkdir, open, rm, stat, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { createXXHash64 } from 'hash-wasm'
import { freePath, versionLabel } from '../../core/deliverable/versions'
import { fail } from '../../core/problem'
import { chaptersCsv, chaptersVtt } from '../../core/timeline/formats/vtt'
import { openFile } from '../storage/disk'
import { moveUnlessTaken } from '../storage/exclusive'
import type { DeliverableStep } from './context'
import { mainFile, type Artefact, type Proof } from '../../core/deliverable/proof'

/** Both sums of a file, read once. */
export async function checksums(step: DeliverableStep, file: string): Promise<Pick<Artefact, 'sha256' | 'xxh64'>> {
  const sha = createHash('sha256')
  const xxh = await createXXHash64()
  xxh.init()
  const source = await openFile(file)
  try {
    for (let at = 0; at < source.size; at += 4 << 20) {
      const bytes = await source.read(at, 4 << 20)
      sha.update(bytes)
      xxh.update(bytes)
      step.progress(0)
    }
  } finally {
    await source.close()
  }
  return { sha256: sha.digest('hex'), xxh64: xxh.digest() }
}

/**
 * A crash may fall between naming the file and noting that it was: then the file is there under the noted name, and is
 * the proven one. When it fell between the two halves of the move, the file has its scratch name as well.
 */
export async function alreadyNamed(
  step: DeliverableStep,
  scratch: string,
): Promise<{ proof: Proof; path: string } | null> {
  const noted = await step.sheets.noted(step.item.id)
  if (!noted) return null
  const full = step.storage.resolve(step.item.target.root, noted.path)
  if (existsSync(scratch)) {
    if (!(await isSameFile(scratch, full))) return null
    await rm(scratch, { force: true })
  }
  if (!existsSync(full) || (await checksums(step, full)).sha256 !== mainFile(noted.proof).sha256) return null
  return noted
}

async function isSameFile(a: string, b: string): Promise<boolean> {
  const [x, y] = await Promise.all([a, b].map((f) => stat(f, { bigint: true }).catch(() => null)))
  return x !== null && x !== undefined && x.dev === y?.dev && x.ino === y.ino
}

/** The wanted path, or the next version of it. */
const versioned = (wanted: string) => (v: number) =>
  v === 1 ? wanted : wanted.replace(/(\.[^.]+)$/, `_${versionLabel(v)}$1`)

/** Gives the scratch file its final name: synced, and never over another file. A proof is noted with it before. */
export async function nameFile(
  step: DeliverableStep,
  scratch: string,
  suffix: string,
  proof: Proof | null,
): Promise<string> {
  const { root, path: target } = step.item.target
  const handle = await open(scratch, 'r')
  await handle.sync()
  await handle.close()
  const extension = path.extname(target)
  const wanted = target.slice(0, -extension.length) + suffix + extension
  const exists = (p: string) => existsSync(step.storage.resolve(root, p))
  for (let tries = 0; tries < 20; tries++) {
    const { path: free } = freePath(versioned(wanted), exists)
    const full = step.storage.resolve(root, free)
    await mkdir(path.dirname(full), { recursive: true })
    if (proof) await step.sheets.note(step.claim, step.item, free, proof)
    else await step.hold()
    if (await moveUnlessTaken(scratch, full)) return free
  }
  return fail(
    'name.taken',
    'Every version of this name is taken.',
    wanted,
    'Clear out the folder or change the name pattern.',
  )
}

/** Puts the chapters beside a finished file, as WebVTT and as CSV; a name that is taken is left alone. */
export async function writeChapters(step: DeliverableStep, finalPath: string): Promise<Artefact[]> {
  const { item } = step
  if (item.chapters.length === 0) return []
  const stem = finalPath.slice(0, -path.extname(finalPath).length)
  const base = { ...item.timeline, start: item.output.start.frames }
  const texts = [
    [`${stem}.chapters.vtt`, chaptersVtt(item.chapters, item.output.frames, item.timeline.rate)],
    [`${stem}.chapters.csv`, chaptersCsv(item.chapters, base)],
  ] as const
  const files: Artefact[] = []
  for (const [name, text] of texts) {
    const full = (p: string) => step.storage.resolve(item.target.root, p)
    // what is there and says the same was written before a crash
    const taken = (p: string) => existsSync(full(p)) && readFileSync(full(p), 'utf8') !== text
    const { path: free } = freePath(versioned(name), taken)
    if (!existsSync(full(free))) await writeFile(full(free), text, { flag: 'wx' })
    files.push({
      role: 'chapters',
      path: free,
      size: Buffer.byteLength(text),
      ...(await checksums(step, full(free))),
    })
  }
  return files
}
