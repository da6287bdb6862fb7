import { rm, rmdir } from 'node:fs/promises'
import { countAt } from '../../core/media/starttimecode'
import path from 'node:path'
import type { Lines } from '../../core/container/container'
import { aspectValue, pixelsAgainst } from '../../core/media/aspect'
import { colourOf, lumaWeights } from '../../core/media/colour'
import type { MediaInfo } from '../../core/media/media'
import { burnIn, type BurnIn } from '../../core/picture/burnin'
import { LineUpPictures, placed, SampleClock, sectionAt, type SoundPart } from '../../core/lineup/lineup'
import { sectionKind } from '../../core/lineup/registry'
import { isTimeline, type LineUpShape } from '../../core/lineup/section'
import { conversionOf, converted, tableConversion } from '../../core/picture/convert'
import type { LookUpTable } from '../../core/picture/table/table'
import { dithered, type Picture } from '../../core/picture/picture'
import { fieldWork, fitScan, keepsFields, pairedFields, toChroma422Of, turned } from '../../core/picture/fields'
import { downmixed } from '../../core/sound/downmix'
import { resampled } from '../../core/sound/resample'
import { toldOf } from '../../core/deliverable/told'
import { topLine, type FrozenDeliverable } from '../../core/deliverable/sheet'
import { fileBase, outputColour, shapeKept, type Output } from '../../core/recipe/output'
import { sameLabel } from '../../core/time/midnight'
import type { FrameRange } from '../../core/time/range'
import type { Frames, Samples } from '../../core/time/rate'
import { plainText } from '../../core/text'
import { formatTimecode } from '../../core/time/timecode'
import type { Claim } from '../queue/port'
import type { WorkerPorts } from './ports'
import type { SharedPictures } from './sources/sharedpictures'
import type { OpenSource } from './sources/source'

/** What every step gets: the world by its ports, what it holds, and a way to say how far it is. */
export interface StepContext extends WorkerPorts {
  readonly claim: Claim
  /** Says how many frames are done; throws when the step was taken away. */
  progress(frames: Frames): void
  /** Makes sure that the step is still held, before what cannot be taken back. Throws ClaimLost. */
  hold(): Promise<void>
}

/** A step of a deliverable: what it is of, and where its scratch files are. */
export interface DeliverableStep extends StepContext {
  readonly item: FrozenDeliverable
  readonly range: FrameRange
  readonly source: DeliverableSource
  /** The deliverable's folder for scratch files, on the disk where the file will be. */
  readonly folder: string
  /** What the steps that this one needed have given, by key. */
  readonly needed: ReadonlyMap<string, unknown>
}

/** A deliverable's source, opened: its pictures and sound as they go into the file. */
export interface DeliverableSource extends Pick<OpenSource, 'info' | 'pictures' | 'copy' | 'place'> {
  /** A frame of the file as it goes into it, of the timeline's frames that it is made of, in order. */
  render(pictures: readonly Picture[], n: Frames): Picture
  /** The picture of a frame of the file that is not of the timeline: the same object for as long as it stays so. */
  made(n: Frames): Picture
  /** Output channels of samples [from, from + count) of the file, gain applied to those of the timeline. */
  soundOf(from: Samples, count: Samples): Promise<Float32Array[]>
  /** Lines of the blanking of a frame of the file, track by track; null of what is not of the timeline. */
  linesOf(n: Frames): Promise<readonly Lines[]>
}

/** The sound of a source at a rate, opened when it is first asked for: what is copied is not decoded. */
function heardFrom(source: OpenSource) {
  let opened: ReturnType<typeof resampled> | null = null
  return (sampleRate: number) => {
    const sound = opened ? null : source.sound()
    return (opened ??= sound && resampled(sound, sampleRate))
  }
}

/** A deliverable's pictures and sound out of its opened source. */
export function deliverableSource(
  item: FrozenDeliverable,
  source: OpenSource,
  table: LookUpTable | null = null,
  shared: SharedPictures | null = null,
): DeliverableSource {
  const { info } = source
  const { output, recipe } = item
  const hear = heardFrom(source)
  const gain = 10 ** (recipe.gain / 20)
  const v = output.video
  const read = info.video[0]
  const work = v && read ? fieldWork(read.scan, v.scan) : 'none'
  const keepsLines = work === 'keep' || work === 'none'
  const keeps = !v || (v.width === read?.width && v.height === read.height && shapeKept(recipe) && keepsLines)
  const { rate } = fileBase(item)
  const lineUp = new LineUpPictures(output, rate, shapeMade(item, info), toldOf(item))
  const clock = output.audio && new SampleClock(output, item.region, rate, output.audio.sampleRate)
  const downmix = output.audio?.downmix
  const channels = Array.from({ length: output.audio?.channels ?? 0 }, (_, i) => i)
  const soundIn = async ({ section, from, count }: SoundPart): Promise<Float32Array[]> => {
    const mute = new Float32Array(count)
    if (!isTimeline(section)) {
      const made = sectionKind(section.kind).sound?.(section, from, count, clock!.sampleRate) ?? mute
      return downmix ? channels.map(() => made) : item.route.map((c) => (c < 0 ? mute : made))
    }
    const taken = item.route.filter((c) => c >= 0)
    const block = (await hear(clock!.sampleRate)?.read(from, count, taken)) ?? []
    const own = item.route.map((c) => block[c] ?? mute)
    const heard = downmix ? downmixed(own, downmix) : own
    return gain === 1 ? heard : heard.map((channel) => channel.map((v) => v * gain))
  }
  const pairs = output.perFrame === 2
  const finer = pairs || keepsFields(work)
  const aspectThere = v && read ? pixelsAgainst(read, v) : 1
  const recipeRaster = { fit: recipe.fit, scaler: recipe.scaler, aspect: aspectThere }
  const colour = colourOf(info.video[0])
  const made = outputColour(recipe, info.video[0])
  const conversion = table ? tableConversion(colour, made, table.stages) : conversionOf(colour, made)
  return {
    ...source,
    made: (n) => lineUp.at(n),
    render(pictures, n) {
      const raster = `${v!.width}×${v!.height} ${recipe.fit} ${recipe.scaler} ${work}`
      const make = (picture: Picture) => {
        const { width, height } = v!
        const fit = keeps ? picture : fitScan(picture, { width, height, ...recipeRaster }, work)
        const ordered = turned(finer ? toChroma422Of(fit, work) : fit, work)
        return conversion ? converted(ordered, conversion) : ordered
      }
      const like = `${keeps ? '' : raster} ${conversion ? `${recipe.colour} ${recipe.table}` : ''} ${finer}`
      const untouched = keeps && !conversion && !finer
      const each = pictures.map((p) => {
        if (untouched) return p
        return shared ? shared.once(p, like, () => make(p)) : make(p)
      })
      const fitted = pairs ? pairedFields(each[0]!, each[1]!, v!.scan) : each[0]!
      const burned = burnIn(fitted, burnIns(item, output, n))
      const chroma = v!.chroma === '4:2:0' ? '4:2:0' : '4:2:2'
      return recipe.pictureDither && v!.bitDepth === 8 ? dithered(burned, chroma) : burned
    },
    async soundOf(from, count) {
      const parts: Float32Array[][] = []
      for (const part of clock?.parts(from, count) ?? []) parts.push(await soundIn(part))
      if (parts.length === 1) return parts[0]!
      return channels.map((i) => joined(parts.map((p) => p[i]!)))
    },
    linesOf: (n) => linesIn(item, source, n),
  }
}

/** How what is made for a file is drawn: in its raster, its depth and its colours. */
function shapeMade({ output: { video: v }, recipe }: FrozenDeliverable, { video: [read] }: MediaInfo): LineUpShape {
  return {
    ...{ width: v?.width ?? 0, height: v?.height ?? 0, chroma: '4:2:2' },
    // as it is read back, to be held against it
    bitDepth: v?.bitDepth === 8 ? 8 : 10,
    pixelAspect: aspectValue(v?.pixelAspect ?? '1:1'),
    weights: lumaWeights(outputColour(recipe, read).matrix),
  }
}

async function linesIn(
  { output, region, timeline }: FrozenDeliverable,
  source: OpenSource,
  n: Frames,
): Promise<readonly Lines[]> {
  if (!output.data) return []
  const s = sectionAt(placed(output), n)
  if (!isTimeline(s)) return output.data.map(() => null)
  const frame = region.in + s.from + n - s.at
  // a timecode of the source would contradict that of the file where frames are counted anew
  const { timecode } = source.info
  const counted = timecode ? countAt(timecode, frame) : timeline.start + frame
  return source.lines(frame, sameLabel(counted, output.start.frames + n, timecode ?? timeline))
}

function joined(parts: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(parts.reduce((n, p) => n + p.length, 0))
  let at = 0
  for (const p of parts) {
    out.set(p, at)
    at += p.length
  }
  return out
}

function burnIns(item: FrozenDeliverable, output: Output, n: Frames): BurnIn[] {
  const size = Math.max(16, Math.round(output.video!.height / 18))
  const out: BurnIn[] = []
  if (item.recipe.burnTimecode)
    out.push({
      text: formatTimecode(output.start.frames + n, fileBase(item)),
      size,
      place: 'bottom',
    })
  const top = topLine(item)
  if (top) out.push({ text: top, size, place: 'top' })
  const mark = plainText(item.recipe.burnMark)
  if (mark) out.push({ text: mark, size: Math.round(output.video!.height / 9), place: 'across' })
  return out
}

/** The name of a file that only this claim writes: nothing of an older one can reach what is made from it. */
export function claimedFile({ folder, claim }: DeliverableStep, name: string): string {
  return path.join(folder, `${name}.${claim.fence}`)
}

/** Removes a deliverable's scratch folder, and the folders above it once they are empty. */
export async function clearScratch(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true })
  for (let above = path.dirname(folder), n = 0; n < 3; above = path.dirname(above), n++)
    await rmdir(above).catch(() => undefined)
}
