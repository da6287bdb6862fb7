import { classOf, needClass } from '../codec/h264-intra/class'
import { pictureCodec } from '../codec/registry'
import { lineUpSections } from '../lineup/lineup'
import { colourText } from '../media/colour'
import type { Scan } from '../media/media'
import { toProblem } from '../problem'
import { basisOf, needDecodedPictures, needDecodedSound, needDepth, needPictures } from './output'
import { plainSettings, type RecipeSettings } from './settings'
import type { RecipeKind } from './recipe'
import { lineUpSteps, segmentSteps } from './segments'

const intra = pictureCodec('h264-intra')!.encode!
/** Bytes a frame's keys, lengths and fill take at most, for each of its elements; and those of header and footer. */
const [around, ends] = [1024, 64_000] as const

/** How the pictures will be carried. */
function scanOf(source: Scan, settings: Pick<RecipeSettings, 'scan'>): Scan {
  return source === 'progressive' && settings.scan === 'segmented' ? 'segmented' : source
}

/** An MXF master (OP1a) of 10-bit 4:2:2 intra pictures, class 100, with 24-bit PCM, a track for each channel. */
export const broadcast: RecipeKind = {
  kind: 'broadcast',
  label: 'MXF, H.264 intra class 100, PCM 24 bit',
  settings: [
    ...([
      'width',
      'height',
      'fit',
      'scaler',
      'colour',
      'table',
      'scan',
      'channels',
      'gain',
      'sampleRate',
      'start',
      'lineUp',
      'handles',
      'contactSheet',
    ] as const),
    ...(['burnTimecode', 'burnName'] as const),
  ],
  shipped: {
    ...plainSettings,
    ...{ id: 'broadcast', name: 'Broadcast master', kind: 'broadcast', container: 'mxf', scan: 'segmented' },
    ...{ width: 1920, height: 1080, sampleRate: 48000 },
  },
  copies: false,
  encodes: ['h264-intra'],
  output(request) {
    const { lineUp } = request.settings
    const b = basisOf(request, { mute: true, before: lineUp ? lineUpSections(lineUp, request.timeline.rate) : [] })
    const { audio: a, problems, route, width, height } = b
    needPictures(b)
    needDecodedPictures(b, request.abilities)
    needDepth(b)
    needDecodedSound(b, request.source, request.abilities)
    const colour = b.picture?.colour
    if (lineUp && colour && (colour.matrix !== 1 || colour.primaries !== 1))
      problems.push({
        code: 'recipe.line-up-colour',
        message: `Line-up is drawn in BT.709; the file would say that its pictures are ${colourText(colour)}.`,
        fix: 'Bring the colour to BT.709, or leave the line-up out.',
      })
    const { frames, samples } = b.shared
    const scan = scanOf(b.picture?.scan ?? 'progressive', request.settings)
    const shape = { width, height, rate: request.timeline.rate, scan }
    if (scan === 'interlaced')
      problems.push({
        code: 'recipe.field-order',
        message: 'The source does not say which of its fields comes first.',
        fix: 'Use a rewrap, or ask for a source that says it.',
      })
    else if (b.picture && !classOf(shape)) {
      try {
        needClass(shape)
      } catch (e) {
        problems.push(toProblem(e))
      }
    }
    return {
      ...b.shared,
      container: 'mxf',
      structure: { pattern: 'OP1a', wrapping: 'frame' },
      video: b.picture && {
        codec: 'h264-intra',
        profile: intra.profile,
        width,
        height,
        chroma: intra.chroma,
        bitDepth: intra.bitDepth,
        ...b.picture,
        scan,
      },
      audio:
        route.length && a
          ? {
              codec: 'pcm',
              channels: route.length,
              sampleRate: b.sampleRate,
              bitDepth: 24,
              layout: null,
              tracks: route.length,
            }
          : null,
      bytes:
        (classOf(shape)?.bytes ?? 0) * frames +
        samples * route.length * 3 +
        frames * (route.length + 1) * around +
        ends,
    }
  },
  steps: (request) => [
    ...lineUpSteps(request),
    ...segmentSteps('encode-in-place', request, [...request.reading.pictures, ...request.reading.sound]),
  ],
}
