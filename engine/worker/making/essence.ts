import { createHash } from 'node:crypto'
import type { AudioEssence, FilePlan, VideoEssence } from '../../../core/container/container'
import { colourOf } from '../../../core/media/colour'
import { fileBase } from '../../../core/recipe/output'
import { filledIn } from '../../../core/split/papers'
import { identityOf } from '../../../core/deliverable/identity'
import type { DeliverableStep } from '../context'
import { reelOf } from './reel'

/** The picture track of a deliverable's file, as its output says. */
export function videoEssence({ item, source }: DeliverableStep, configuration: Uint8Array | null): VideoEssence {
  const v = item.output.video!
  return {
    kind: 'video',
    codec: v.codec,
    width: v.width,
    height: v.height,
    pixelAspect: v.pixelAspect,
    colour: v.colour ?? colourOf(source.info.video[0]),
    scan: v.scan,
    configuration,
  }
}

/** The sound track of a deliverable's file, as its output says. */
export function audioEssence({ item }: DeliverableStep, configuration: Uint8Array | null): AudioEssence {
  const a = item.output.audio!
  return {
    kind: 'audio',
    codec: a.codec,
    channels: a.channels,
    sampleRate: a.sampleRate,
    layout: a.layout,
    configuration,
    bitrate: item.recipe.soundBitrate * 1000,
  }
}

/** Sixteen bytes by which a file is known: of what it holds and where it goes, so that it is made the same again. */
export function identityBytes({ item }: DeliverableStep): Uint8Array {
  const sum = createHash('sha256')
    .update(`${identityOf(item)} ${item.target.root} ${item.target.path}`)
    .digest()
  return Uint8Array.from(sum.subarray(0, 16))
}

/** The file of a deliverable, less what its tracks and their media data are. */
export function planOf(step: DeliverableStep): Omit<FilePlan, 'tracks' | 'dataSize'> {
  const { item } = step
  const { output, chapters } = item
  const { metadata } = item.region
  const { rate } = fileBase(item)
  const reel = reelOf(step)
  return { frames: output.frames, rate, start: output.start, reel, chapters, metadata: filledIn(metadata) }
}
