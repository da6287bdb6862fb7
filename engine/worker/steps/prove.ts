import { createHash } from 'node:crypto'
import { existsSync } from 'node:fs'
import { link, mkdir, open, rename, stat, unlink, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { createXXHash64 } from 'hash-wasm'
import { openPictures } from '../../../core/codec/pictures'
import { openSound } from '../../../core/codec/sound'
import { contentMeter } from '../../../core/analysis/content'
import { levelMeter } from '../../../core/analysis/levels'
import { soundMeter } from '../../../core/analysis/sound'
import type { SoundFacts } from '../../../core/analysis/soundfacts'
import { traceOf } from '../../../core/analysis/trace'
import type { MediaInfo } from '../../../core/media/media'
import { openMedia } from '../../../core/container/registry'
import { freePath } from '../../../core/deliverable/versions'
import { lumaDifference, type Picture } from '../../../core/picture/picture'
import { fail } from '../../../core/problem'
import { layoutOf } from '../../../core/recipe/output'
import type { SheetItem } from '../../../core/deliverable/sheet'
import {
  contentReadings,
  fileReadings,
  soundReadings,
  troubleReadings,
  type PictureFacts,
  type Reading,
  type Readings,
} from '../../../core/spec/reading'
import { cleared, judge, worstVerdict, type RuleResult, type Verdict } from '../../../core/spec/judge'
import { rulesFor } from '../../../core/spec/spec'
import { chaptersCsv, chaptersVtt } from '../../../core/timeline/formats/vtt'
import { nominalRate } from '../../../core/time/rate'
import { mulDivRound } from '../../../core/time/samples'
import { openFile } from '../../storage/disk'
import { clearScratch, scratchFile, type OpenItem, type TaskContext } from '../context'
import { jpegOf } from '../stills'
import { plural } from '../../../core/text'

/** What is known of a finished file: kept with its deliverable and in the report. */
export interface Proof {
  readonly info: MediaInfo
  readonly frames: number
  readonly results: readonly RuleResult[]
  readonly verdict: Verdict
  readonly checksums: { readonly sha256: string; readonly xxh64: string }
  readonly sound: SoundFacts | null
  /** Short-term loudness of each tenth of a second, LUFS. */
  readonly ribbon: readonly (number | null)[]
  readonly content: PictureFacts | null
  /** Mean luma difference to the timeline's own picture. */
  readonly ends: { readonly first: number; readonly last: number } | null
  /** First and last pictures as written and of the timeline, as JPEG files in the cache. */
  readonly stills: {
    readonly first: string
    readonly last: string
    readonly firstTimeline: string
    readonly lastTimeline: string
  } | null
}

/** Opens the finished scratch file, measures and judges it, and gives it its final name when it is what was asked. */
export async function prove(
  context: TaskContext,
  source: OpenItem,
  folder: string,
): Promise<{ proof: Proof; finalPath: string }> {
  const { item, output } = source
  const scratch = scratchFile(folder, item)
  const named = await alreadyNamed(context, item, scratch)
  if (named) return named
  const file = await openFile(scratch, item.target.path)
  let proof: Proof
  try {
    const media = await openMedia(file)
    const written: Readings = fileReadings(media.info, item.timeline, 'file')
    if (output.video && media.info.durationFrames !== output.frames) {
      fail(
        'prove.frames',
        `The file has ${plural(media.info.durationFrames ?? 0, 'frame')}; ${output.frames} were asked for.`,
        item.target.path,
        'Run it again; if it happens again, report it with the run sheet.',
      )
    }
    const chapters = media.info.chapters.map((c) => ({
      at: mulDivRound(c.at, item.timeline.rate.num, item.timeline.rate.den * c.timescale),
      name: c.name,
    }))
    if (JSON.stringify(chapters.map((c) => c.at)) !== JSON.stringify([...new Set(item.chapters.map((c) => c.at))])) {
      fail(
        'prove.chapters',
        `The file has ${plural(chapters.length, 'chapter')} at other places than the ${item.chapters.length} asked for.`,
        item.target.path,
        'Run it again; if it happens again, report it with the run sheet.',
      )
    }
    const sound = openSound(media, context.codecs)
    let facts: SoundFacts | null = null
    let ribbon: (number | null)[] = []
    if (sound) {
      const meter = soundMeter(
        { channels: sound.channels, sampleRate: sound.sampleRate, rate: item.timeline.rate },
        layoutOf(sound.channels),
      )
      for (let at = 0; at < sound.samples; at += sound.sampleRate) {
        meter.feed(await sound.read(at, Math.min(sound.sampleRate, sound.samples - at)))
        await context.progress(0)
      }
      facts = meter.result()
      ribbon = meter.ribbon()
      Object.assign(
        written,
        soundReadings(facts, 0, 'file'),
        troubleReadings(meter.trouble(), { ...item.timeline, start: output.start.frames }, 'file'),
      )
    }
    let content: PictureFacts | null = null
    let ends: Proof['ends'] = null
    let stills: Proof['stills'] = null
    if (output.video) {
      const seen = await watch(context, media, item, output.frames)
      content = seen.content
      Object.assign(written, contentReadings(content, { ...item.timeline, start: output.start.frames }, 'file'))
      const first = await compareEnd(source, seen.first, item.region.in)
      const last = await compareEnd(source, seen.last, item.region.out - 1)
      written['first-picture'] = first.reading
      written['last-picture'] = last.reading
      ends = { first: first.difference, last: last.difference }
      const save = async (name: string, p: Picture) => {
        const target = path.join(context.folders.cache, `proof-${item.id}-${name}.jpg`)
        await writeFile(target, await jpegOf(p, 480))
        return path.basename(target)
      }
      stills = {
        first: await save('first', seen.first),
        last: await save('last', seen.last),
        firstTimeline: await save('first-timeline', first.own),
        lastTimeline: await save('last-timeline', last.own),
      }
    }
    for (const key of ['metadata', 'file-name'] as const) {
      const reading = item.readings[key]
      if (reading && reading.value !== null) written[key] = { ...reading, value: reading.value } as Reading
    }
    const results = judge(rulesFor(item.spec, 'written', output.video !== null), {}, {}, written, item.waivers)
    proof = {
      info: media.info,
      frames: output.video ? output.frames : 0,
      results,
      verdict: worstVerdict(results.map((r) => r.verdict)),
      checksums: await checksums(context, scratch),
      sound: facts,
      ribbon,
      content,
      ends,
      stills,
    }
  } finally {
    await file.close()
  }
  if (!cleared(proof.results)) {
    const why = proof.results
      .filter((r) => r.verdict === 'fail')
      .map((r) => r.why)
      .join(' ')
    const kept = await finalName(context, item, scratch, '.refused', null)
    await clearScratch(folder)
    fail(
      'prove.refused',
      `The finished file does not meet its specification. ${why}`,
      kept,
      'The file is kept under this name to be looked at. Correct the settings and run it again.',
    )
  }
  const finalPath = await finalName(context, item, scratch, '', proof)
  await writeChapters(context, item, finalPath, output)
  await clearScratch(folder)
  return { proof, finalPath }
}

/** Puts the chapters beside a finished file, as WebVTT and as CSV; a name that is taken is left alone. */
async function writeChapters(
  context: TaskContext,
  item: SheetItem,
  finalPath: string,
  output: OpenItem['output'],
): Promise<void> {
  if (item.chapters.length === 0) return
  const stem = finalPath.slice(0, -path.extname(finalPath).length)
  const files = [
    [`${stem}.chapters.vtt`, chaptersVtt(item.chapters, output.frames, item.timeline.rate)],
    [`${stem}.chapters.csv`, chaptersCsv(item.chapters, { ...item.timeline, start: output.start.frames })],
  ] as const
  for (const [name, text] of files) {
    const { path: free } = await freePath(
      (v) => (v === 1 ? name : name.replace(/(\.[^.]+)$/, `_v${String(v).padStart(2, '0')}$1`)),
      (p) => existsSync(context.roots.resolve(item.target.root, p)),
    )
    await writeFile(context.roots.resolve(item.target.root, free), text, { flag: 'wx' })
  }
}

/** Decodes every frame once: content, and the pictures at both ends. */
async function watch(
  context: TaskContext,
  media: Awaited<ReturnType<typeof openMedia>>,
  item: SheetItem,
  frames: number,
) {
  const meter = contentMeter({ rate: item.timeline.rate, shortestFreeze: nominalRate(item.timeline.rate) })
  const levels = levelMeter(media.info.video[0]!.width, media.info.video[0]!.height)
  let first: Picture | null = null
  let last: Picture | null = null
  for await (const { frame, picture } of openPictures(media, context.codecs).read({ in: 0, out: frames })) {
    const trace = traceOf(picture)
    meter.feed(trace)
    levels.feed(trace)
    first ??= picture
    last = picture
    await context.progress(frame)
  }
  return { content: { ...meter.result(), levels: levels.result() }, first: first!, last: last! }
}

/**
 * Compares a written picture with the timeline's own at a frame and with its neighbours, to tell a shift from a
 * difference.
 */
async function compareEnd(
  source: OpenItem,
  written: Picture,
  frame: number,
): Promise<{ reading: Reading; difference: number; own: Picture }> {
  const reach = 3
  const total = source.info.video[0]!.frames
  const range = { in: Math.max(0, frame - reach), out: Math.min(total, frame + reach + 1) }
  let own: Picture | null = null
  let difference = 255
  let best = { off: 0, difference: 255 }
  for await (const near of source.pictures().read(range)) {
    const d = lumaDifference(source.render(near.picture, frame), written)
    if (near.frame === frame) {
      own = source.render(near.picture, frame)
      difference = d
    }
    if (d < best.difference) best = { off: near.frame - frame, difference: d }
  }
  const shifted = best.off !== 0 && difference > best.difference * 1.5 + 0.3
  return {
    own: own!,
    difference,
    reading: shifted
      ? { value: 255, text: `shifted by ${plural(Math.abs(best.off), 'frame')}`, from: 'file' }
      : { value: difference, text: `the timeline’s own (difference ${difference.toFixed(2)})`, from: 'file' },
  }
}

async function checksums(context: TaskContext, file: string): Promise<Proof['checksums']> {
  const sha = createHash('sha256')
  const xxh = await createXXHash64()
  xxh.init()
  const source = await openFile(file)
  try {
    for (let at = 0; at < source.size; at += 4 << 20) {
      const bytes = await source.read(at, 4 << 20)
      sha.update(bytes)
      xxh.update(bytes)
      await context.progress(0)
    }
  } finally {
    await source.close()
  }
  return { sha256: sha.digest('hex'), xxh64: xxh.digest() }
}

/**
 * A crash may fall between naming the file and noting it: then the file is there under the noted name, and is the
 * proven one.
 */
async function alreadyNamed(
  context: TaskContext,
  item: SheetItem,
  scratch: string,
): Promise<{ proof: Proof; finalPath: string } | null> {
  if (existsSync(scratch)) return null
  const row = await context.db
    .selectFrom('item')
    .select(['result', 'final_path'])
    .where('id', '=', item.id)
    .executeTakeFirst()
  if (!row?.result || !row.final_path) return null
  const full = context.roots.resolve(item.target.root, row.final_path)
  const proof = JSON.parse(row.result) as Proof
  if (!existsSync(full) || (await checksums(context, full)).sha256 !== proof.checksums.sha256) return null
  return { proof, finalPath: row.final_path }
}

/**
 * Gives the scratch file its final name: synced, and never over another file. The name is noted with its proof before.
 */
async function finalName(
  context: TaskContext,
  item: SheetItem,
  scratch: string,
  suffix: string,
  proof: Proof | null,
): Promise<string> {
  const handle = await open(scratch, 'r')
  await handle.sync()
  await handle.close()
  const extension = path.extname(item.target.path)
  const wanted = item.target.path.slice(0, -extension.length) + suffix + extension
  for (let tries = 0; tries < 20; tries++) {
    const { path: free } = await freePath(
      (v) => (v === 1 ? wanted : wanted.replace(/(\.[^.]+)$/, `_v${String(v).padStart(2, '0')}$1`)),
      (p) =>
        stat(context.roots.resolve(item.target.root, p)).then(
          () => true,
          () => false,
        ),
    )
    const full = context.roots.resolve(item.target.root, free)
    await mkdir(path.dirname(full), { recursive: true })
    if (proof)
      await context.db
        .updateTable('item')
        .set({ result: JSON.stringify(proof), final_path: free })
        .where('id', '=', item.id)
        .execute()
    try {
      // a hard link fails when the name is taken in the meantime; a rename would overwrite
      await link(scratch, full)
      await unlink(scratch)
      return free
    } catch (e) {
      const code = (e as { code?: string }).code
      if (code === 'EEXIST') continue
      if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'EXDEV' && code !== 'EMLINK') throw e
      await rename(scratch, full)
      return free
    }
  }
  return fail(
    'name.taken',
    'Every version of this name is taken.',
    wanted,
    'Clear out the folder or change the name pattern.',
  )
}
