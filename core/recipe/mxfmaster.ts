import { pictureCodec } from '../codec/registry'
import { writtenStructure, type FileStructure, type Scan } from '../media/media'
import { hasFields, scanText } from '../media/scan'
import { fieldWork, turnsFields } from '../picture/fields'
import { toProblem } from '../problem'
import type { Frames, Rate, Samples } from '../time/rate'
import {
  basisOf,
  encodedAs,
  keptLines,
  linesBytes,
  needDecodedPictures,
  needDecodedSound,
  needDepth,
  needPictures,
  type Basis,
  type OutputRequest,
} from './output'
import { canPair, framesEach, saidOfPairs } from './pairs'
import type { RecipeKind, StepRequest } from './recipe'
import { inSections, sayLineUp } from './sections'
import { lineUpSteps, segmentSteps } from './segments'
import { burnInSettings, plainSettings, settings as allSettings, type RecipeSettings, type Setting } from './settings'
import { pictureKilobits } from './trial'

/** Bytes a frame's keys, lengths and fill take at most, for each of its elements; and those of header and footer. */
const [around, ends] = [1024, 64_000] as const

/** Settings that all of them have. */
const shared: ReadonlySet<Setting> = new Set<Setting>([
  ...([
    'fit',
    'scaler',
    'colour',
    'table',
    'scan',
    'channels',
    'downmix',
    'gain',
    'start',
    'breaks',
    'handles',
    'partitions',
  ] as const),
  ...burnInSettings,
  'contactSheet',
])

/** How one kind of MXF master differs from the others. */
export interface MxfMaster {
  readonly kind: string
  readonly label: string
  /** Settings it has besides those that all have. */
  readonly settings: readonly Setting[]
  readonly shipped: Partial<RecipeSettings> & { readonly id: string; readonly name: string }
  /** The codec of its pictures; all are of one size. */
  readonly codec: string
  /** Tracks that so many channels of sound are in. */
  tracks(channels: number): number
  /** Bytes of so many samples of sound, whatever their channels; absent where each of these is PCM of 24 bits. */
  soundBytes?(samples: Samples): number
  /** Whether its files have no room for lines of the blanking. */
  readonly noLines?: true
  /** What of the picture is not as it is worked out for all; a problem is thrown. */
  shape?(b: Basis): { readonly pixelAspect?: string }
}

/** How the pictures will be carried. */
function scanOf(source: Scan, { scan }: Pick<RecipeSettings, 'scan'>, perFrame: number): Scan {
  if (scan === 'source') return source
  if (perFrame > 1) return scan
  if (scan === 'segmented') return source === 'progressive' ? 'segmented' : source
  return hasFields(source) ? scan : source
}

/** A kind of recipe for an MXF file (OP1a), pictures of one size frame by frame, 24-bit PCM. */
export function mxfMaster(m: MxfMaster): RecipeKind {
  return {
    kind: m.kind,
    label: m.label,
    settings: (Object.keys(allSettings) as Setting[]).filter((s) => shared.has(s) || m.settings.includes(s)),
    shipped: {
      ...plainSettings,
      ...{ kind: m.kind, container: 'mxf', scan: 'segmented', width: 1920, height: 1080, sampleRate: 48000 },
      ...m.shipped,
    },
    copies: false,
    finished: true,
    encodes: [m.codec],
    output: (request) => outputOf(m, request),
    steps: (request: StepRequest) => [
      ...lineUpSteps(request),
      ...segmentSteps('encode-in-place', request, [...request.reading.pictures, ...request.reading.sound]),
    ],
  }
}

/** The partitions that its essence goes to, where there may be several. */
function bodiesOf(
  { settings: { partitions } }: OutputRequest,
  frames: Frames,
  rate: Rate,
): Pick<FileStructure, 'bodies'> {
  if (partitions === null) return {}
  // none lasts longer than was asked for
  const each = Math.max(1, Math.floor((partitions * rate.num) / rate.den))
  return { bodies: { count: Math.max(1, Math.ceil(frames / each)), longest: Math.min(frames, each), rate } }
}

function outputOf(m: MxfMaster, request: OutputRequest) {
  const perFrame = framesEach(request)
  const own = inSections(request, perFrame)
  const b = basisOf(request, { mute: true, sections: own.sections, perFrame })
  const pairs = perFrame > 1 ? saidOfPairs(request, own.delivered) : { problems: [], notes: [] }
  b.problems.push(...own.problems, ...pairs.problems)
  const { audio: a, written, width, height } = b
  needPictures(b)
  needDecodedPictures(b, request.abilities)
  needDepth(b)
  needDecodedSound(b, request.source, request.abilities)
  sayLineUp(b, request)
  const encode = pictureCodec(m.codec)!.encode!
  const { frames, samples } = b.shared
  const scan = scanOf(b.picture?.scan ?? 'progressive', request.settings, perFrame)
  const tracks = m.tracks(written.channels)
  const { pictureBytes, shape } = shapeOf(m, b, request, scan)
  const lines = takesLines(m, b, request, scan) ? keptLines(request.source) : {}
  const shallower = b.video && b.video.bitDepth > encode.bitDepth
  const depth = shallower
    ? [`Its pictures have ${encode.bitDepth} bits; those of the source have ${b.video.bitDepth}.`]
    : []
  const said = encodedAs(m.codec, { width, height, rate: b.picture?.rate ?? request.timeline.rate, scan })
  const coarser = b.video && b.video.chroma !== '4:2:0' && said.chroma === '4:2:0'
  const chroma = coarser ? [`Its chroma is 4:2:0; that of the source is ${b.video.chroma}.`] : []
  const work = fieldWork(b.picture?.scan ?? 'progressive', scan)
  const order = turnsFields(work) ? [`The other field comes first: its lines lie one ${work} than in the source.`] : []
  const sound = written.channels ? (m.soundBytes?.(samples) ?? samples * written.channels * 3) : 0
  const wrapping = frames * ((tracks + 1) * around + linesBytes(lines)) + ends
  const notes = [...own.notes, ...pairs.notes, ...depth, ...chroma, ...order]
  if (lines.data)
    notes.push(
      'Ancillary data is taken over from the source, frame by frame; ' +
        'its timecode only where the file counts as the source does.',
    )
  return {
    ...b.shared,
    ...(notes.length ? { notes: [...(b.shared.notes ?? []), ...notes] } : {}),
    container: 'mxf',
    structure: { ...writtenStructure, ...bodiesOf(request, frames, b.picture?.rate ?? request.timeline.rate) },
    ...lines,
    video: b.picture && {
      ...said,
      ...{ width, height, ...b.picture, ...shape, scan, ...(pictureBytes ? { pictureBytes } : {}) },
    },
    audio:
      written.channels && a
        ? { codec: 'pcm', ...written, sampleRate: b.sampleRate, bitDepth: 24, layout: null, tracks }
        : null,
    bytes: pictureBytes * frames + sound + wrapping,
    bytesOff: wrapping,
  }
}

/** Whether lines of the blanking are still where they were: in the same lines of the same fields, frame by frame. */
function takesLines(
  m: MxfMaster,
  { video: v, height }: Basis,
  { source, timeline }: OutputRequest,
  scan: Scan,
): boolean {
  if (!v || m.noLines || source.container !== 'mxf') return false
  return v.height === height && v.scan === scan && v.rate.num === timeline.rate.num && v.rate.den === timeline.rate.den
}

/** Bytes of each picture, and what is this kind's own of its shape; says what keeps it from being made. */
function shapeOf(m: MxfMaster, b: Basis, request: OutputRequest, scan: Scan) {
  const { settings } = request
  const { width, height, problems } = b
  const own = b.picture?.scan ?? scan
  if (own === 'interlaced')
    problems.push({
      code: 'recipe.field-order',
      message: 'The source does not say which of its fields comes first.',
      fix: 'Say it at the Timelines (Scan) where it is known, use a rewrap, or ask for a source that says it.',
    })
  else if (settings.scan !== 'source' && hasFields(settings.scan) && !hasFields(own) && !b.shared.perFrame)
    problems.push({
      code: 'recipe.no-fields',
      message: `The source has no fields that could be turned: it is ${scanText(own)}.`,
      fix: 'Ask for segmented frames, or for the scan of the source; fields are made of 50 and 59.94 frames a second.',
    })
  else if (b.picture)
    try {
      const different = m.shape?.(b) ?? {}
      const shape = { width, height, rate: b.picture.rate, scan }
      const pictureBytes = pictureCodec(m.codec)!.encode!.frameBytes!(shape, pictureKilobits(settings) * 1000)
      return { pictureBytes, shape: different }
    } catch (e) {
      const p = toProblem(e)
      const pair = canPair(b.video, request.timeline.rate) && !b.shared.perFrame
      problems.push(pair ? { ...p, fix: `Ask for fields made of its frames (Scan: top field first). ${p.fix}` } : p)
    }
  return { pictureBytes: 0, shape: {} }
}
