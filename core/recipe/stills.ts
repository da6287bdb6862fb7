import { runNamed } from '../files/fileset'
import { colourText, hasRgb } from '../media/colour'
import { hasFields } from '../media/scan'
import { listed } from '../text'
import { stillWriting } from '../stills/registry'
import { basisOf, needDecodedPictures, needDepth, needPictures, type Output, type OutputRequest } from './output'
import { burnInSettings, plainSettings, type RecipeSettings, type Setting } from './settings'
import type { RecipeKind } from './recipe'
import { segmentSteps } from './segments'

const shared = [
  'stillFormat',
  'width',
  'height',
  'fit',
  'scaler',
  'colour',
  'table',
  'trial',
  'start',
] as const satisfies readonly Setting[]

/** What a run of stills, or one, will be, whatever its frames are. */
function stillsOf(request: OutputRequest): Output {
  const b = basisOf(request, { mute: true })
  const { problems, width, height, picture } = b
  needPictures(b)
  needDecodedPictures(b, request.abilities)
  needDepth(b)
  const [format, writing] = stillWriting(request.settings.stillFormat)
  const stated = picture?.colour ? writing.states(picture.colour) : null
  if (picture?.colour && !hasRgb(picture.colour))
    problems.push({
      code: 'recipe.transfer',
      message: `Stills are not made of pictures of ${colourText(picture.colour)}: no format here can say so.`,
      fix: 'Use a rewrap, or ask for pictures of BT.709, BT.601 or BT.2020.',
    })
  const { scan = 'progressive', pixelAspect = '1:1' } = picture ?? {}
  const interlaced = hasFields(scan)
  const told = format.tells(request.timeline.rate)
  const time = told.includes('timecode')
  const unsaid = [
    ...(told.includes('rate') ? [] : ['how many there are to a second']),
    ...(time ? [] : ['their timecode']),
    ...(time && request.timeline.dropFrame && !told.includes('dropped')
      ? ['that labels of their timecode are dropped']
      : []),
    ...(pixelAspect === '1:1' || told.includes('shape') ? [] : [`the shape of their pixels (${pixelAspect})`]),
    ...(interlaced && !told.includes('fields') ? ['that their lines are those of two fields'] : []),
    ...(stated ? [] : ['their colour']),
  ]
  return {
    ...b.shared,
    container: 'stills',
    video: picture && {
      ...{ codec: format.codec, profile: null, width, height, chroma: '4:4:4', bitDepth: writing.bitDepth },
      contradictions: [],
      ...picture,
      scan: interlaced ? scan : 'progressive',
      colour: stated,
    },
    audio: null,
    samples: 0,
    bytes: writing.bytes(width, height) * b.shared.frames,
    ...(writing.bytesOff === undefined ? {} : { bytesOff: writing.bytesOff * b.shared.frames }),
    notes: [
      ...(b.shared.notes ?? []),
      'Pictures are worked on as 4:2:2 of 10 bits at most, whatever the files could hold.',
      ...(unsaid.length ? [`The files cannot say ${listed(unsaid, 'or')}.`] : []),
    ],
  }
}

/** Settings of what the files of a run are called. */
export const runSettings = ['firstNumber', 'digits', 'separator'] as const satisfies readonly Setting[]

/** What makes a file for every frame, in a folder of its own, of files that end alike. */
export function numbered(endingFor: (settings: RecipeSettings, output: Output | null) => string) {
  return {
    ending: (s: RecipeSettings) => `/‹name›${s.separator}${'#'.repeat(s.digits)}${endingFor(s, null)}`,
    fileName(path: string, settings: RecipeSettings, output: Output) {
      const name = path.slice(path.lastIndexOf('/') + 1)
      const head = `${path}/${name}${settings.separator}`
      const first = firstNumber(settings, output)
      return runNamed(head, first, output.frames, settings.digits, endingFor(settings, output))
    },
  }
}

/** An output with a problem where its numbers have more digits than there are to be. */
export function withinDigits({ settings }: OutputRequest, output: Output): Output {
  const { digits } = settings
  const last = firstNumber(settings, output) + output.frames - 1
  const problem = {
    code: 'recipe.digits',
    message: `The last still has number ${last}, which is more than ${digits} digits hold.`,
    fix: 'Give more digits, or a lower first number.',
  }
  return last < 10 ** digits ? output : { ...output, problems: [...output.problems, problem] }
}

const firstNumber = ({ firstNumber: n }: RecipeSettings, output: Output) => n ?? output.start.frames

const extensionOf = ({ stillFormat }: RecipeSettings) => stillWriting(stillFormat)[0].extensions[0]!

/** A numbered file for every frame, in a folder of its own. */
export const sequence: RecipeKind = {
  kind: 'sequence',
  label: 'numbered stills, a folder each',
  settings: [...shared, ...runSettings, 'handles', ...burnInSettings],
  shipped: { ...plainSettings, id: 'sequence', name: 'Still sequence', kind: 'sequence', channels: 'none' },
  copies: false,
  encodes: [],
  output: (request) => withinDigits(request, stillsOf(request)),
  ...numbered(extensionOf),
  steps: (request) => segmentSteps('write-stills', request, request.reading.pictures),
}

/** Which frame of so many a still is of. */
function frameOf({ stillAt }: RecipeSettings, frames: number): number {
  if (stillAt === 'middle') return frames >> 1
  return stillAt === 'first' ? 0 : frames - 1
}

/** One frame of a region, as a file. */
export const still: RecipeKind = {
  kind: 'still',
  label: 'one frame of a region',
  settings: [...shared, 'stillAt', ...burnInSettings],
  shipped: {
    ...{ ...plainSettings, id: 'still', name: 'Still', kind: 'still', channels: 'none', stillFormat: 'png-16' },
  },
  copies: false,
  encodes: [],
  output(request) {
    const { range, settings } = request
    const from = frameOf(settings, range.out - range.in)
    const at = { in: range.in + from, out: range.in + from + 1 }
    const one = stillsOf({ ...request, range: at, before: (request.before ?? 0) - from })
    return { ...one, sections: [{ kind: 'timeline', from, frames: 1 }] }
  },
  ending: extensionOf,
  steps: ({ settings, range, reading }) => {
    const at = range.in + frameOf(settings, range.out - range.in)
    return [
      { key: 'still', kind: 'write-stills', needs: [], range: { in: at, out: at + 1 }, abilities: reading.pictures },
    ]
  },
}
