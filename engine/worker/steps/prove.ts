import path from 'node:path'
import { openTracks } from '../../../core/codec/sound'
import { contentEdition } from '../../../core/analysis/pictures'
import { carriedIn, damagedPictures, damageOf, describedMedia, unitsOf } from '../../../core/measure/described'
import { lineUpOf } from '../../../core/measure/time/lineup'
import type { Evidence, Readings } from '../../../core/measure/measure'
import { measures, readMeasures } from '../../../core/measure/registry'
import { leadOf } from '../../../core/lineup/lineup'
import { colourOf, lumaWeights, type LumaWeights } from '../../../core/media/colour'
import type { Colour, MediaInfo } from '../../../core/media/media'
import type { Picture } from '../../../core/picture/picture'
import { fail } from '../../../core/problem'
import { fileBase, outputColour } from '../../../core/recipe/output'
import { namedLayout } from '../../../core/recipe/soundtaken'
import { recipeKind } from '../../../core/recipe/registry'
import { headIn, type FrozenDeliverable } from '../../../core/deliverable/sheet'
import { saidLayout } from '../../../core/sound/layout'
import { cleared, judge, worstVerdict } from '../../../core/spec/judge'
import { isTrial } from '../../../core/recipe/trial'
import { rulesFor } from '../../../core/spec/spec'
import { ruledAs } from '../../../core/deliverable/outlet'
import { earlierKey } from '../../../core/job/taking'
import type { ProofEnd } from '../../storage/cache'
import { openMediaFile } from '../../storage/mediafile'
import { clearScratch, type DeliverableStep } from '../context'
import { writeContactSheet } from '../proving/contactsheet'
import { knownContent, takenFile } from '../making/earlier'
import { checkContainer, checkDescription, checkStructure } from '../proving/asked'
import { checkCopied, isCopiedBlindly } from '../proving/copied'
import { hear } from '../proving/hear'
import { checkLines, copiedUnits } from '../proving/lines'
import { alreadyNamed, nameFile, sumsOf, writeChapters } from '../proving/naming'
import type { Proof } from '../../../core/deliverable/proof'
import { partsTogether, type CodedPictures, type HeldPictures, type PartInPlace } from '../making/looks'
import { writeReport } from '../proving/report'
import { see, type Seen } from '../proving/seen'
import { timecodesIn } from '../proving/timecodes'
import { checkStills } from '../making/stillfiles'
import { jpegOf } from '../stills'

/** What the steps before gave: a scratch file, and what is known of what went into it. */
interface Made {
  readonly file: string
  readonly coded?: CodedPictures
  readonly part?: PartInPlace
  readonly sums?: string
  readonly looks?: string
}

/** What stills are held against; null where they were copied, or written by an earlier edition. */
function stillsTogether(made: readonly Made[]): HeldPictures | null {
  const looks = made.flatMap((m) => m.looks ?? [])
  return looks.length > 0 && looks.length === made.length ? { looks } : null
}

/** Opens the finished scratch file, measures and judges it, and gives it its final name when it is what was asked. */
export async function prove(step: DeliverableStep): Promise<null> {
  const { item, folder } = step
  const made = [...step.needed].flatMap(([key, result]) => (key === earlierKey ? [] : [result as Made]))
  const { file, sums } = made[0]!
  const coded =
    made[0]!.coded ??
    stillsTogether(made) ??
    partsTogether(
      made.flatMap((m) => m.part ?? []),
      item,
    )
  const scratch = path.join(folder, file)
  const named = await alreadyNamed(step, scratch)
  if (!named && sums !== undefined) await checkStills(step, scratch)
  const proof = named?.proof ?? (await proofOf(step, scratch, coded))
  if (!cleared(proof.results)) await refuse(step, scratch, proof)
  const finalPath = named?.path ?? (await nameFile(step, scratch, '', proof))
  const [main] = proof.files as [Proof['files'][number]]
  const beside = [...(await writeChapters(step, finalPath)), ...(await writeContactSheet(step, finalPath))]
  const files = [{ ...main, path: finalPath }, ...beside]
  await step.sheets.note(step.claim, item, finalPath, { ...proof, files })
  if (!isTrial(item.recipe)) await writeReport(step, step.claim.run!, item, folder)
  await clearScratch(folder)
  return null
}

/** Keeps a file that does not meet its specification under a name that says so. */
async function refuse(step: DeliverableStep, scratch: string, proof: Proof): Promise<never> {
  const why = proof.results
    .filter((r) => r.blocks)
    .map((r) => r.why)
    .join(' ')
  const kept = await nameFile(step, scratch, '.refused', null)
  await clearScratch(step.folder)
  fail(
    'prove.refused',
    `The finished file does not meet its specification. ${why}`,
    kept,
    'The file is kept under this name to be looked at. Correct the settings and run it again.',
  )
}

async function proofOf(step: DeliverableStep, scratch: string, coded: HeldPictures | null): Promise<Proof> {
  const { item } = step
  const { output } = item
  const colour = outputColour(item.recipe, step.source.info.video[0])
  const weights = lumaWeights(colour.matrix)
  const written = await openMediaFile(scratch, item.target.path, weights)
  try {
    const { info, media } = written
    const file = fileBase(item)
    checkDescription(item, info)
    checkStructure(item, info)
    if (media) await checkContainer(item, media)
    const head = headIn(item)
    const base = { ...file, start: file.start + leadOf(output) + (head?.programme ?? 0) }
    const heard = await hear(step, written.sound(step.codecs))
    const copies = media !== null && recipeKind(item.recipe).copies
    if (copies) await checkCopied(step, media)
    const ownSound = info.audio.length === 0 ? null : copies ? copiedSound : heard?.own
    const blind = media !== null && isCopiedBlindly(step)
    const seen = output.video && !blind ? await see(step, written, coded, await knownContent(step)) : null
    const lines = media && output.video ? await checkLines(step, media) : null
    const units = media && output.video ? await copiedUnits(step, media) : null
    // where nothing of its sound is heard, nobody knows that there is no line-up
    const toldAtHead = head !== null || info.audio.length === 0 || openTracks(info.audio).length > 0
    const evidence: Evidence = {
      described: describedMedia(info, file),
      damage: [...damageOf(info), ...damagedPictures(item.damaged, item.timeline)],
      ...(blind ? { lookedThrough: false } : {}),
      trial: item.recipe.trial,
      ...(output.audio ? { layout: namedIn(step, info) } : {}),
      base,
      ...(output.video ? { colours: { written: info.video[0]?.colour ?? null, asked: askedColour(step) } } : {}),
      ...((seen && toldAtHead) || output.sections
        ? { lineUp: lineUpOf(output, head, file, heard?.tones ?? (info.audio.length ? unheardTones : noTones)) }
        : {}),
      ...(ownSound === undefined ? {} : { ownSound }),
      ...(heard ? { sound: heard.facts, trouble: heard.trouble, carried: carriedIn(written.media, heard.bits) } : {}),
      stated: { loudness: info.bext?.loudness ?? null },
      ...(seen ? { ends: { first: seen.first.end, last: seen.last.end } } : {}),
      ...(blind ? { ends: { first: copiedEnd, last: copiedEnd } } : {}),
      ...(seen?.content ? { pictures: seen.content, scan: info.video[0]!.scan } : {}),
      ...(output.video ? { ancillary: lines, coded: units, besides: info.data ?? [] } : {}),
      ...(media ? unitsOf(media) : {}),
      ...(media || output.video ? { file, timecodes: await timecodesIn(written, file) } : {}),
      ...(info.metadata ? { metadata: info.metadata } : {}),
    }
    const readings: Readings = { ...frozenReadings(item), ...readMeasures(evidence, 'file') }
    const rules = rulesFor(item.spec, 'written', ruledAs(output, item.recipe))
    const results = judge(rules, {}, {}, readings, item.waivers)
    const taken = takenFile(step)
    return {
      files: [{ role: 'main', path: item.target.path, size: info.size, sums: await sumsOf(step, scratch) }],
      info,
      frames: output.video ? output.frames : 0,
      ...(seen || blind ? { decoded: seen?.decoded ?? 0 } : {}),
      ...(taken === null ? {} : { taken }),
      results,
      verdict: worstVerdict(results.map((r) => r.verdict)),
      sound: heard?.facts ?? null,
      ribbon: heard?.ribbon ?? [],
      ...{ content: seen?.content ?? null, contentEdition },
      ends: seen && { first: seen.first.end.difference, last: seen.last.end.difference },
      stills: seen && (await keepStills(step, seen, weights)),
    }
  } finally {
    await written.close()
  }
}

/** An end of a file that is its source's, byte by byte. */
const copiedEnd = { difference: 0, shift: 0, copied: true } as const

/** Its sound, of which every sample, or every coded packet, was held against its source's. */
const copiedSound = { is: 'own', by: 'bytes' } as const

/** What a file was to state of its colour; sheets of earlier editions leave it to the source. */
function askedColour({ item, source }: DeliverableStep): Colour | null {
  const { video } = item.output
  return video?.colour !== undefined ? video.colour : colourOf(source.info.video[0])
}

/** What a written file may not say itself: metadata typed, its name, and what was settled before it was made. */
function frozenReadings(item: FrozenDeliverable): Readings {
  const settled = measures.filter((m) => m.stage === 'before' || ['metadata', 'file-name'].includes(m.name))
  const names = settled.map((m) => m.name)
  return Object.fromEntries(
    Object.entries(item.readings).filter(([name, r]) => r.value !== null && names.includes(name)),
  ) as Readings
}

/** What the channels of a file are said to be: by itself where they are copied, else by what they are taken of. */
const namedIn = ({ item, source }: DeliverableStep, info: MediaInfo) =>
  recipeKind(item.recipe).copies ? saidLayout(info.audio) : namedLayout(item.output, source.info, item.route)

/** Of a file without sound, and of one whose sound is not all read. */
const noTones = { made: [], found: [] }
const unheardTones = { made: null, found: null }

/** Keeps the pictures at both ends, as written and of the timeline. */
async function keepStills(step: DeliverableStep, seen: Seen, weights: LumaWeights): Promise<Proof['stills']> {
  const save = async (end: ProofEnd, p: Picture) => step.sheets.still(step.claim, end, await jpegOf(p, 480, weights))
  return {
    first: await save('first', seen.first.picture),
    last: await save('last', seen.last.picture),
    firstTimeline: await save('first-timeline', seen.first.own),
    lastTimeline: await save('last-timeline', seen.last.own),
  }
}
