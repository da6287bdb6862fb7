import { asLabelled } from '../media/scan'
import { stillFormats } from '../stills/registry'
import { basisOf, needPictures, type Output } from './output'
import type { RecipeKind } from './recipe'
import { segmentSteps } from './segments'
import { plainSettings } from './settings'
import { numbered, runSettings, withinDigits } from './stills'

const formatOf = (codec: string | undefined) => stillFormats.find((f) => f.codec === codec)

/** How the files end that a source of stills is made of; what follows is known with the source only. */
const ending = (output: Output | null) => formatOf(output?.video?.codec)?.extensions[0] ?? '.‹as source›'

/** What a file grows by at most where its place is said anew. */
const room = 256

/** Copies a file for every frame of stills, untouched but for what it says of its place. */
export const copiedStills: RecipeKind = {
  kind: 'copied-stills',
  label: 'stills copied untouched',
  settings: ['start', ...runSettings, 'handles'],
  shipped: { ...plainSettings, id: 'copied-stills', name: 'Copied stills', kind: 'copied-stills', channels: 'none' },
  copies: true,
  encodes: [],
  output(request) {
    const { source } = request
    const b = basisOf(request, { mute: true })
    needPictures(b)
    const v = b.video && asLabelled(b.video)
    const format = formatOf(v?.codec)
    if (v && (source.container !== 'stills' || !format))
      b.problems.push({
        code: 'recipe.stills',
        message: 'The source is no run of stills, whose files could be copied.',
        fix: 'Use a rewrap, or a recipe that makes stills.',
      })
    const each = source.size / Math.max(1, source.durationFrames ?? 1)
    return withinDigits(request, {
      ...b.shared,
      container: 'stills',
      video: v
        ? {
            ...{ codec: v.codec, profile: v.profile, width: v.width, height: v.height, rate: request.timeline.rate },
            ...{ scan: v.scan, chroma: v.chroma, bitDepth: v.bitDepth, pixelAspect: v.pixelAspect, colour: v.colour },
            ...(v.untold ? { untold: v.untold } : {}),
            ...(v.contradictions ? { contradictions: v.contradictions } : {}),
          }
        : null,
      audio: null,
      samples: 0,
      bytes: Math.ceil((each + room) * b.shared.frames),
      notes: [
        ...(b.shared.notes ?? []),
        format?.moved
          ? 'Samples are copied as they stand; each file says its new name, place and timecode, as far as it can.'
          : 'Files are copied byte for byte; they cannot say their timecode.',
      ],
    })
  },
  ...numbered((_, output) => ending(output)),
  steps: (request) => segmentSteps('copy-stills', request, request.reading.pictures),
}
