import { rm, rmdir } from 'node:fs/promises'
import path from 'node:path'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import type { PictureSource } from '../../core/codec/pictures'
import type { MediaInfo } from '../../core/media/media'
import { burnIn, type BurnIn } from '../../core/picture/burnin'
import type { Picture } from '../../core/picture/picture'
import { fitPicture } from '../../core/picture/scale'
import type { SheetItem } from '../../core/deliverable/sheet'
import { describeOutput, routeOf, type Abilities, type Output } from '../../core/recipe/output'
import type { Frames } from '../../core/time/rate'
import { formatTimecode } from '../../core/time/timecode'
import { aspectValue } from '../../core/container/mp4/entrywriter'
import type { Db } from '../store/database'
import type { DataFolders } from '../storage/home'
import type { Roots } from '../storage/roots'
import { openSource, type CopiedPart } from './source'

/** What every task gets. */
export interface TaskContext {
  readonly db: Db
  readonly roots: Roots
  readonly folders: DataFolders
  readonly codecs: WebCodecs | null
  readonly abilities: Abilities
  /** Says how many frames are done; renews the lease; throws when the task was taken away. */
  progress(frames: Frames): Promise<void>
}

/** A deliverable's source, opened: what the file will be, and its pictures and sound as they go into it. */
export interface OpenItem {
  readonly item: SheetItem
  readonly info: MediaInfo
  readonly output: Output
  readonly pictures: () => PictureSource
  /** The files the region can be copied from untouched, one after the other, and where in them. */
  copy(): readonly CopiedPart[]
  /** The picture of a timeline frame as it goes into the file. */
  render(picture: Picture, frame: Frames): Picture
  /** Output channels of timeline samples [from, from + count), gain applied. */
  soundOf(from: number, count: number): Promise<Float32Array[]>
  close(): Promise<void>
}

/** Opens the source of a deliverable after checking that it is still the file that was frozen. */
export async function openItem(context: TaskContext, item: SheetItem): Promise<OpenItem> {
  const source = await openSource(context.roots, context.codecs, { ...item.source, assembly: item.assembly ?? null })
  const { info, sound } = source
  const range = { in: item.region.in, out: item.region.out }
  const output = describeOutput(
    item.recipe,
    item.recipe.kind === 'rewrap' ? source.copy(range)[0]!.media.info : info,
    item.timeline,
    range,
    context.abilities,
  )
  const route = routeOf(item.recipe, sound?.channels ?? 0)
  const gain = 10 ** (item.recipe.gain / 20)
  const aspect = aspectValue(info.video[0]?.pixelAspect ?? '1:1')
  return {
    item,
    info,
    output,
    pictures: () => source.pictures(),
    copy: () => source.copy(range),
    render(picture, frame) {
      const v = output.video!
      const keep = item.recipe.width === null && item.recipe.height === null
      return burnIn(
        keep ? picture : fitPicture(picture, v.width, v.height, item.recipe.fit, aspect),
        burnIns(item, output, frame),
      )
    },
    async soundOf(from, count) {
      const block = sound ? await sound.read(from, count) : []
      return route.map((c) => {
        const from = block[c]
        if (!from) return new Float32Array(count)
        if (gain === 1) return from
        const out = new Float32Array(count)
        for (let i = 0; i < count; i++) out[i] = from[i]! * gain
        return out
      })
    },
    close: () => source.close(),
  }
}

function burnIns(item: SheetItem, output: Output, frame: Frames): BurnIn[] {
  const size = Math.max(16, Math.round(output.video!.height / 18))
  const out: BurnIn[] = []
  if (item.recipe.burnTimecode)
    out.push({
      text: formatTimecode(output.start.frames + frame - item.region.in, item.timeline),
      size,
      place: 'bottom',
    })
  if (item.recipe.burnName)
    out.push({ text: item.region.name.normalize('NFD').replace(/[^\x20-\x7e]/g, ''), size, place: 'top' })
  return out
}

/** The folder of a deliverable's scratch files, on the disk where the file will be. */
export function scratchOf(context: TaskContext, item: SheetItem, runId: string): Promise<string> {
  return context.roots.scratch(item.target.root, runId, item.id)
}

/** The scratch name of the file itself. */
export function scratchFile(folder: string, item: SheetItem): string {
  return path.join(folder, `file${path.extname(item.target.path)}`)
}

/** Removes a deliverable's scratch folder, and the folders above it once they are empty. */
export async function clearScratch(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true })
  for (const above of [path.dirname(folder), path.dirname(path.dirname(folder))])
    await rmdir(above).catch(() => undefined)
}
