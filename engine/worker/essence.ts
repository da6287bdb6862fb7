import type { AudioEssence, FilePlan, VideoEssence } from '../../core/container/container'
import { madeColour } from '../../core/media/colour'
import type { DeliverableStep } from './context'

/** The picture track of a deliverable's file, as its output says. */
export function videoEssence({ item, source }: DeliverableStep, configuration: Uint8Array | null): VideoEssence {
  const v = item.output.video!
  return {
    kind: 'video',
    codec: v.codec,
    width: v.width,
    height: v.height,
    pixelAspect: v.pixelAspect,
    colour: v.colour ?? madeColour(source.info.video[0]!.colour),
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

/** The file of a deliverable, less what its tracks and their media data are. */
export function planOf({ item }: DeliverableStep): Omit<FilePlan, 'tracks' | 'dataSize'> {
  const { output, timeline, chapters } = item
  return { frames: output.frames, rate: timeline.rate, start: output.start, chapters }
}
