import { readdir, rm, stat } from 'node:fs/promises'
import path from 'node:path'
import type { SplitTimeline } from '../../core/split/timeline'
import type { Db } from '../store/database'
import { isFormerFrames } from './framestore'
import { clearTryouts, isTryout } from './tryouts'

/** What is kept for contents that nothing shows any more, bytes. */
const spare = 20 * 2 ** 30

/** Files younger than this are left alone: they may belong to a timeline that is just being brought in. */
const fresh = 60 * 60 * 1000

/** Pictures of a proof: both ends of a file, and what the timeline has there. */
export const proofEnds = ['first', 'last', 'first-timeline', 'last-timeline'] as const
export type ProofEnd = (typeof proofEnds)[number]
/** The file of the cache that a picture of a proof is kept in. */
export const proofStill = (deliverable: string, end: ProofEnd) => `proof-${deliverable}-${end}.jpg`

/** Whom a file of the cache belongs to: the content it was worked out from, or the deliverable whose stills it has. */
export function ownerOf(name: string): { content: string } | { item: string } {
  const still = /^proof-(.+?)-(?:first|last)(?:-timeline)?\.jpg$/.exec(name)
  if (still) return { item: still[1]! }
  // what is not read any more is what no timeline shows
  return { content: isFormerFrames(name) ? `former ${name}` : name.slice(0, name.indexOf('.')) }
}

/**
 * Clears the cache of what nobody asks for: stills of deliverables that are gone, and, once they take more room than
 * `most`, what is kept of contents that no timeline shows, those not used for longest first. All of it can be made
 * again from the media.
 */
export async function clearCache(
  cache: string,
  contents: ReadonlySet<string>,
  items: ReadonlySet<string>,
  most = spare,
  now = Date.now(),
): Promise<void> {
  const unused = new Map<string, { files: string[]; bytes: number; used: number; written: number }>()
  for (const name of await readdir(cache)) {
    if (isTryout(name)) continue
    const file = path.join(cache, name)
    const s = await stat(file).catch(() => null)
    if (!s?.isFile()) continue
    const owner = ownerOf(name)
    if ('item' in owner) {
      if (!items.has(owner.item) && now - s.mtimeMs >= fresh) await rm(file, { force: true })
    } else if (!contents.has(owner.content)) {
      const of = unused.get(owner.content) ?? { files: [], bytes: 0, used: 0, written: 0 }
      of.files.push(file)
      of.bytes += s.size
      of.used = Math.max(of.used, s.mtimeMs, s.atimeMs)
      of.written = Math.max(of.written, s.mtimeMs)
      unused.set(owner.content, of)
    }
  }
  // what belongs together goes together
  const old = [...unused.values()].filter((u) => now - u.written >= fresh).sort((a, b) => a.used - b.used)
  let bytes = old.reduce((n, u) => n + u.bytes, 0)
  for (const u of old) {
    if (bytes <= most) break
    for (const file of u.files) await rm(file, { force: true })
    bytes -= u.bytes
  }
}

/** Clears the cache of what no timeline shows and no deliverable needs. */
export async function sweepCache(
  db: Db,
  cache: string,
  timelines: { list(): Promise<SplitTimeline[]> },
): Promise<void> {
  const all = await timelines.list()
  const deliverables = await db.selectFrom('deliverable').select('id').execute()
  const contents = all.flatMap((t) => [
    t.fingerprint.content,
    ...(t.linking?.assembly.sources ?? []).map((s) => s.fingerprint.content),
  ])
  await clearTryouts(cache)
  await clearCache(cache, new Set(contents), new Set(deliverables.map((d) => d.id)))
}
