import type { RegionSound } from '../analysis/soundstretches'
import { pictureCaptions } from '../codec/captions'
import type { SourceUnits } from '../codec/unitfacts'
import { pixelsAgainst } from '../media/aspect'
import { colourOf } from '../media/colour'
import { hasFields } from '../media/scan'
import { namedLayout } from '../recipe/soundtaken'
import { surroundsIn } from '../sound/tracks'
import type { Evidence } from '../measure/measure'
import { lostData, outputColour, type Output } from '../recipe/output'
import { conversionOf } from '../picture/convert'
import { placement } from '../picture/scale'
import type { Recipe } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { burnIns } from '../recipe/settings'
import { stillWriting } from '../stills/registry'
import type { Draft } from './draft'

// What is said of a draft before it is made, beside what its recipient asks about: from settings and headers, and from
// what was read of its source: `units` is what its coded pictures say, or why that is not known.

/** What is asked of a draft beside its recipient's rules: see `traps` of the specs. */
export function trapsOf(d: Draft, heard: RegionSound | null, units: SourceUnits | string): Evidence {
  const { recipe, outlet, output, timeline } = d
  const source = timeline.info.video[0]
  const raster = (r: Pick<Recipe, 'width' | 'height'>) => ({
    width: r.width ?? source?.width ?? 0,
    height: r.height ?? source?.height ?? 0,
  })
  return {
    trial: recipe.trial,
    handles: { wanted: recipe.handles, ...d.handles, rate: timeline.model.rate },
    ...(output.video ? { rasters: { here: raster(recipe), outlet: raster(outlet.recipe) } } : {}),
    ...(output.video ? { drawn: { what: drawnBy(recipe), master: recipeKind(recipe).finished === true } } : {}),
    ...(output.video ? { alpha: { source: d.source.video[0]?.alpha === true, file: recipeKind(recipe).copies } } : {}),
    ...(heard ? { heard: heardIn(d, heard) } : {}),
    ...(output.audio ? { layout: namedLayout(output, d.source, d.route) } : {}),
    ...(heard && output.audio ? { sound: heard, soundKept: keepsSound(d, heard) } : {}),
    ...(output.audio ? drivenBy(d, heard) : {}),
    ...(output.video && d.source.data ? { data: dataOf(d, units) } : {}),
    ...(output.audio ? {} : { heard: { route: [], peaks: [] }, driven: [] }),
  }
}

/** Source channels as a file has them. */
const heardIn = (d: Draft, { sourcePeaks }: RegionSound): NonNullable<Evidence['heard']> => ({
  ...{ route: d.route, peaks: sourcePeaks, surrounds: surroundsOf(d) },
  ...(d.output.audio?.downmix ? { together: true } : {}),
})

/** Mixes in surround that a deliverable is made of; of a list where its sources say which channel is which. */
const surroundsOf = ({ timeline: { linking, info } }: Draft) =>
  surroundsIn(linking ? info.audio.filter((a) => a.layout !== null) : info.audio)

/** How high the samples of a file's channels will go: those of its source, with its gain. */
function drivenBy({ recipe }: Draft, heard: RegionSound | null): Pick<Evidence, 'driven'> {
  if (recipeKind(recipe).copies) return { driven: 'copied' }
  return heard ? { driven: heard.peaks.map((p) => (p === null ? null : p + recipe.gain)) } : {}
}

/** Whether data in channels of the source is in the file sample for sample, each pair of channels side by side. */
function keepsSound({ output, recipe, route, timeline: { info } }: Draft, { coded }: RegionSound): boolean {
  const { audio } = output
  const changed = audio?.downmix !== undefined || (recipe.gain !== 0 && !recipeKind(recipe).copies)
  if (!audio || audio.codec !== 'pcm' || changed || info.audio.length === 0) return false
  if (info.audio.some((a) => a.sampleRate !== audio.sampleRate || a.bitDepth > audio.bitDepth)) return false
  const beside = (i: number) => (route[i]! % 2 === 0 ? route[i + 1] === route[i]! + 1 : route[i - 1] === route[i]! - 1)
  return (coded?.channels ?? []).every(beside)
}

/** What a recipe draws into pictures, in words. */
const drawnBy = (recipe: Recipe) =>
  recipeKind(recipe).settings.flatMap((s) => (s in burnIns && recipe[s] ? [burnIns[s as keyof typeof burnIns]] : []))

/** Whether pictures get bars in the raster of a file, or lose of their edges: shares of them are others then. */
function laysAnew({ output: { video }, recipe: { fit }, timeline: { info } }: Draft): boolean {
  const [own] = info.video
  if (!video || !own) return false
  const { from, to } = placement(own.width, own.height, pixelsAgainst(own, video), video.width, video.height, fit)
  return [from.width - own.width, from.height - own.height, to.width - video.width, to.height - video.height].some(
    (n) => n !== 0,
  )
}

/**
 * Whether pictures are seen otherwise than in the source: something is drawn into them, their colour changes, or they
 * fill another part of the raster.
 */
export function changesPictures(d: Draft): boolean {
  const { output, recipe, timeline } = d
  const [source] = timeline.info.video
  const from = colourOf(source)
  if (output.video === null || recipeKind(recipe).copies) return false
  if (laysAnew(d)) return true
  return (
    recipe.table !== null || drawnBy(recipe).length > 0 || conversionOf(from, outputColour(recipe, source)) !== null
  )
}

/** Whether fields are made for a file, or joined. */
export const changesFields = ({ output: { video, perFrame = 1 }, recipe, timeline: { info } }: Draft): boolean =>
  video !== null &&
  !recipeKind(recipe).copies &&
  (perFrame > 1 || hasFields(info.video[0]?.scan ?? 'progressive') !== hasFields(video.scan))

/** Whether levels beyond black and white are cut off in a file. */
export const cutsLevels = ({ output, recipe }: Draft): boolean =>
  output.container === 'stills' && !recipeKind(recipe).copies && !stillWriting(recipe.stillFormat)[1].keepsBeyond

/** Whether levels are others in a file: those beyond are cut off, or sharp edges are made anew in another size. */
export function changesLevels(d: Draft): boolean {
  const { output, recipe, timeline } = d
  const [own] = timeline.info.video
  if (!output.video || !own || recipeKind(recipe).copies) return false
  return cutsLevels(d) || changesFields(d) || own.width !== output.video.width || own.height !== output.video.height
}

/** What there is besides pictures and sound that somebody may miss, and what of it is lost. */
function dataOf(
  { output, recipe, source: { data: known = [] } }: Draft,
  units: SourceUnits | string,
): NonNullable<Evidence['data']> {
  // captions may begin later than where the file was looked into when it was opened
  const found = typeof units !== 'string' && units.captions && !known.some((d) => d.kind === 'pictures')
  const source = { data: found ? [...known, pictureCaptions] : known }
  const { copies } = recipeKind(recipe)
  return {
    source: lostData({}, source, false),
    lost: lostData(output, source, copies),
    ...(typeof units === 'string' ? { unread: units } : {}),
  }
}

/** What is known before of what a file's coded pictures say: of copies what their sources say. */
function codedOf({ recipe }: Draft, units: SourceUnits | string): Evidence['coded'] {
  if (!recipeKind(recipe).copies) return null
  if (typeof units === 'string') return { leaning: null, unread: units }
  return { leaning: units.leaning, ofSource: true, ...(units.captions ? {} : { captions: null }) }
}

/** The access units of pictures that are all of one size. */
function unitsOf({ video, frames }: Output): Pick<Evidence, 'units'> {
  const size = video?.pictureBytes
  return size ? { units: { count: frames, bytes: frames * size, least: size, most: size, rate: video.rate } } : {}
}

/** Bits that samples of the source have, where they are written as they are, with noughts below. */
function bitsOf(
  { output, recipe, route, timeline: { info, linking } }: Draft,
  heard: RegionSound | null,
): Pick<Evidence, 'had'> {
  const { audio, sections } = output
  const mixed = linking !== null || audio?.downmix !== undefined
  const changed = mixed || sections !== undefined || (recipe.gain !== 0 && !recipeKind(recipe).copies)
  const silent = route.every((c) => (heard?.sourcePeaks[c] ?? null) === null)
  if (!audio || changed || silent) return {}
  const whole = info.audio.every((a) => a.codec === 'pcm' && a.sampleRate === audio.sampleRate)
  return whole ? { had: Math.max(...info.audio.map((a) => a.bitDepth)) } : {}
}

/** What is known of a file before it is made, beside its description. */
export const knownBefore = (d: Draft, units: SourceUnits | string, heard: RegionSound | null): Evidence => ({
  ...bitsOf(d, heard),
  ...(d.output.video ? { coded: codedOf(d, units), besides: [], ...unitsOf(d.output) } : {}),
  ...(!d.output.video || d.output.data?.includes('ancillary') ? {} : { ancillary: null }),
})
