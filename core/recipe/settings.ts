import { z } from 'zod'
import { scalers } from '../kernel/scale'
import { systems } from '../media/colour'
import { stillWritings } from '../stills/registry'
import { trialNames, trials, trialText } from './trial'

/** One setting of recipes: what it may be, what it is called, how its value is said and typed. */
interface SettingDefinition<T extends z.ZodType> {
  readonly schema: T
  readonly label: string
  readonly text?: (value: z.infer<T>) => string
  /** What typed text means; what makes no sense is left for the schema to refuse. */
  readonly parse: (text: string) => unknown
  /** What to type, in words. */
  readonly hint?: string
  /** Whether no picture is another for it: it is of sound, of labels, or of what is made besides. */
  readonly unseen?: true
  /** All values it can have, where they are few. */
  readonly choices?: readonly (readonly [value: z.infer<T>, text: string])[]
}
const setting = <T extends z.ZodType>(
  schema: T,
  label: string,
  more: Partial<SettingDefinition<T>> = {},
): SettingDefinition<T> => ({ schema, label, parse: number, ...more })

const number = (text: string) => Number(text.replace('−', '-').replace(/\s*(kbit\/s|dB|bit)$/i, '') || Number.NaN)
const plain = (text: string) => text
const channelList = (text: string) =>
  /^(all|none)$/i.test(text)
    ? text.toLowerCase()
    : text
        .split(/[\s,]+/)
        .filter(Boolean)
        .map((c) => (c === '–' || c === '-' ? 0 : Number(c)))

const hertz = (text: string) => {
  if (/^(as\b.*|source|)$/i.test(text)) return null
  const value = Number(text.replace(/\s*k?hz$/i, ''))
  return value < 1000 ? Math.round(value * 1000) : value
}

const side = z.number().int().min(16).max(8192).multipleOf(2).nullable()
const sideOf = (hint: string) => ({
  hint,
  text: (v: number | null) => (v === null ? 'as source' : String(v)),
  parse: (text: string) => (/^(as\b.*|source|)$/i.test(text) ? null : Number(text)),
})
const bitrate = { text: (v: number) => `${v} kbit/s` }
const yesOrNo = {
  text: (v: boolean) => (v ? 'yes' : 'no'),
  parse: (text: string) => /^(yes|true)$/i.test(text),
  choices: [
    [false, 'no'],
    [true, 'yes'],
  ],
} as const

const colours = [['source', 'as source'] as const, ...systems.map((s) => [s.name, s.label] as const)]

const stillNames = stillWritings().map(([, w]) => [w.name, w.label] as const)

const spreads = [
  [1, 'one a second'],
  [10, 'one in 10 s'],
  [0, 'all'],
] as const

const scans = [
  ['source', 'as source'],
  ['segmented', 'segmented (PsF)'],
  ['interlaced-tff', 'top field first'],
  ['interlaced-bff', 'bottom field first'],
] as const

const sheets = [
  [0, 'none'],
  [12, '12 pictures'],
  [24, '24 pictures'],
  [48, '48 pictures'],
] as const

const downmixes = [
  ['none', 'none'],
  ['stereo', 'to stereo'],
  ['mono', 'to mono'],
] as const

const lineUps = [
  [null, 'none'],
  [-18, '−18 dBFS'],
  [-20, '−20 dBFS'],
] as const

/** Every setting there is, in the order they are shown. A kind of recipe has some of them. */
export const settings = {
  /** The brand of the file, e.g. `mov`. */
  container: setting(z.string().min(1), 'Container', { parse: plain }),
  /** Raster; null is the source's. */
  width: setting(side, 'Width', sideOf('pixels, or empty for the source’s')),
  height: setting(side, 'Lines', sideOf('lines, or empty for the source’s')),
  fit: setting(z.enum(['letterbox', 'crop', 'stretch', 'unscaled']), 'Fit', {
    parse: plain,
    choices: [
      ['letterbox', 'with bars'],
      ['crop', 'crop'],
      ['stretch', 'stretch'],
      ['unscaled', 'unscaled'],
    ],
  }),
  /** How progressive pictures are carried, or which field of interlaced ones comes first. */
  scan: setting(z.enum(['source', 'segmented', 'interlaced-tff', 'interlaced-bff']), 'Scan', {
    parse: plain,
    text: (v) => scans.find(([value]) => value === v)![1],
    choices: scans,
  }),
  /** The id of a look-up table that pictures go through: what comes out is of the colour above. */
  table: setting(
    z
      .string()
      .regex(/^[a-z0-9-]{1,60}$/)
      .nullable(),
    'Look-up table',
    {
      hint: 'none, or a table of the Shelf; what comes out of it is of the colour above, and is converted no further',
      text: (v) => v ?? 'none',
      parse: (text) => (/^(none|)$/i.test(text) ? null : text),
    },
  ),
  /** Whether it is made to be looked at only, and in which size. */
  trial: setting(z.enum(trialNames), 'Trial', {
    hint: 'made to be looked at, into a folder “Trials”; coded pictures get half the bit rate',
    parse: plain,
    text: trialText,
    choices: trials.map(([name, , text]) => [name, text] as const),
  }),
  /** How samples are weighed when the raster changes. */
  scaler: setting(z.enum(scalers), 'Scaling', {
    parse: plain,
    choices: [
      ['lanczos', 'sharp (Lanczos)'],
      ['mitchell', 'soft (Mitchell)'],
    ],
  }),
  /** The system that pictures are brought to: `source`, or a name of `core/media/colour`. */
  colour: setting(
    z.string().refine((v) => colours.some(([name]) => name === v), 'this colour is not known here'),
    'Colour',
    { parse: plain, text: (v) => colours.find(([name]) => name === v)?.[1] ?? v, choices: colours },
  ),
  /** Source channels (from 1; 0 is silence) in the order of the output's channels. */
  channels: setting(
    z.union([z.literal('all'), z.literal('none'), z.array(z.number().int().min(0).max(64)).min(1).max(16)]),
    'Sound channels',
    {
      hint: 'all, none, or source channels in order: 1 2; – is silence',
      unseen: true,
      text: (v) => (Array.isArray(v) ? v.map((c) => c || '–').join(' ') : v),
      parse: channelList,
    },
  ),
  /** What these channels are brought together to. */
  downmix: setting(z.enum(['none', 'stereo', 'mono']), 'Downmix', {
    hint: 'none, or the chosen channels, which are one mix, to stereo or mono (ITU-R BS.775)',
    unseen: true,
    parse: plain,
    text: (v) => downmixes.find(([value]) => value === v)![1],
    choices: downmixes,
  }),
  /** dB. */
  gain: setting(z.number().min(-60).max(30), 'Gain', {
    hint: 'dB',
    unseen: true,
    text: (v) => `${v > 0 ? '+' : ''}${v.toFixed(1).replace('-', '−')} dB`,
  }),
  /** `timeline`, `source`, or the label of the first frame of the programme. */
  start: setting(
    z.union([z.literal('timeline'), z.literal('source'), z.string().regex(/^\d\d:\d\d:\d\d[:;]\d\d$/)]),
    'Start timecode',
    {
      hint: 'timeline, source (that of the first frame), or hh:mm:ss:ff',
      unseen: true,
      text: (v) => (v === 'timeline' || v === 'source' ? `from the ${v}` : v),
      parse: (text) => /^(?:(?:from the )?(timeline|source)|)$/i.exec(text)?.[1]?.toLowerCase() ?? (text || 'timeline'),
    },
  ),
  /** What is made in front of a region: the peak of its tone in dBFS; null is nothing. */
  lineUp: setting(z.union([z.literal(-18), z.literal(-20)]).nullable(), 'Line-up', {
    hint: 'none, or the level of its tone: −18 dBFS (EBU R 68) or −20 dBFS (SMPTE RP 155)',
    text: (v) => lineUps.find(([value]) => value === v)![1],
    parse: (text) => lineUps.find(([, said]) => said === text)?.[0] ?? (/^(none|)$/i.test(text) ? null : number(text)),
    choices: lineUps,
  }),
  /** Seconds of black between the parts of a programme; null leaves what lies between them in the timeline. */
  breaks: setting(z.number().int().min(0).max(600).nullable(), 'Breaks between parts', {
    hint: 'as they lie in the timeline, or seconds of black; what is of no part is left out then',
    text: (v) => (v === null ? 'as they lie' : v === 0 ? 'none' : `${v} s of black`),
    parse: (text) =>
      /^(as\b.*|)$/i.test(text)
        ? null
        : /^none$/i.test(text)
          ? 0
          : Number(text.replace(/\s*s(\s+of black)?$/i, '') || 'x'),
  }),
  /** Seconds of each partition of essence of an MXF file; null is one for all. */
  partitions: setting(z.number().int().min(1).max(3600).nullable(), 'Body partitions', {
    hint: 'one for all, or seconds of each',
    unseen: true,
    text: (v) => (v === null ? 'one' : `of ${v} s`),
    parse: (text) => (/^(one\b.*|)$/i.test(text) ? null : Number(text.replace(/^of\s+|\s*s$/gi, '') || 'x')),
  }),
  /** How stills are written: a name of `core/stills`. */
  stillFormat: setting(
    z.string().refine((v) => stillNames.some(([name]) => name === v), 'stills of this kind are not known here'),
    'Stills',
    { parse: plain, text: (v) => stillNames.find(([name]) => name === v)?.[1] ?? v, choices: stillNames },
  ),
  /** The number of the first still; null is that of its timecode, in frames. */
  firstNumber: setting(z.number().int().min(0).max(99_999_999).nullable(), 'First number', {
    hint: 'timecode, for the frames that it counts, or a number',
    text: (v) => (v === null ? 'from the timecode' : String(v)),
    parse: (text) => (/^((from the )?timecode|)$/i.test(text) ? null : Number(text)),
  }),
  /** Digits of a still's number. */
  digits: setting(z.number().int().min(2).max(9), 'Digits', { hint: '2 to 9; zeros fill them' }),
  /** What stands between a name and its number. */
  separator: setting(z.enum(['.', '_', '-']), 'Before the number', {
    parse: plain,
    choices: [
      ['.', 'a dot'],
      ['_', 'a low line'],
      ['-', 'a hyphen'],
    ],
  }),
  /** Which frame of a region its still is of. */
  stillAt: setting(z.enum(['first', 'middle', 'last']), 'Frame', {
    parse: plain,
    choices: [
      ['first', 'first'],
      ['middle', 'in the middle'],
      ['last', 'last'],
    ],
  }),
  /** Frames of the timeline before and after a region that are delivered too. */
  handles: setting(z.number().int().min(0).max(100_000), 'Handles', {
    hint: 'frames before and after (samples, of a file of sound alone)',
    text: (v) => (v === 0 ? 'none' : String(v)),
    parse: (text) => (/^(none|)$/i.test(text) ? 0 : Number(text)),
  }),
  /** kbit/s. */
  pictureBitrate: setting(z.number().int().min(100).max(200_000), 'Picture bit rate', bitrate),
  /** kbit/s. */
  soundBitrate: setting(z.number().int().min(32).max(640), 'Sound bit rate', { ...bitrate, unseen: true }),
  burnTimecode: setting(z.boolean(), 'Timecode in picture', yesOrNo),
  burnName: setting(z.boolean(), 'Name in picture', yesOrNo),
  /** The day of the run. */
  burnDate: setting(z.boolean(), 'Date in picture', yesOrNo),
  /** Words across the middle of every picture; none where it is empty. */
  burnMark: setting(z.string().trim().max(80), 'Mark in picture', {
    hint: 'none, or words that are laid across the middle of every picture',
    text: (v) => v || 'none',
    parse: (text) => (/^none$/i.test(text) ? '' : text),
  }),
  /** Hz; null is the source's. */
  sampleRate: setting(z.union([z.literal(44100), z.literal(48000), z.literal(96000)]).nullable(), 'Sample rate', {
    hint: 'as source, 44.1, 48 or 96 kHz',
    unseen: true,
    text: (v) => (v === null ? 'as source' : `${v / 1000} kHz`),
    parse: hertz,
    choices: [
      [null, 'as source'],
      [44100, '44.1 kHz'],
      [48000, '48 kHz'],
      [96000, '96 kHz'],
    ],
  }),
  soundDepth: setting(z.union([z.literal(16), z.literal(24)]), 'Sound depth', {
    unseen: true,
    text: (v) => `${v} bit`,
    choices: [
      [24, '24 bit'],
      [16, '16 bit'],
    ],
  }),
  /** Seconds from one picture that is decoded in the proof to the next; 0 is every picture. */
  proofSpread: setting(z.union([z.literal(0), z.literal(1), z.literal(10)]), 'Pictures in proof', {
    hint: '0 for all, or seconds from one that is decoded to the next: 1, 10; all where a rule asks what is seen',
    unseen: true,
    text: (v) => spreads.find(([value]) => value === v)![1],
    parse: (text) => spreads.find(([, said]) => said === text)?.[0] ?? (text === '' ? Number.NaN : Number(text)),
    choices: spreads,
  }),
  /** How many pictures the sheet beside the file has; 0 is none. */
  contactSheet: setting(z.union([z.literal(0), z.literal(12), z.literal(24), z.literal(48)]), 'Contact sheet', {
    hint: 'none, or pictures on it: 12, 24 or 48, in even steps from the first to the last',
    unseen: true,
    text: (v) => sheets.find(([value]) => value === v)![1],
    parse: (text) => (/^(none|)$/i.test(text) ? 0 : Number.parseInt(text, 10)),
    choices: sheets,
  }),
  /** TPDF noise where sound gets fewer bits than it had. */
  dither: setting(z.boolean(), 'Dither to 16 bit', { ...yesOrNo, unseen: true }),
  /** Ordered noise where pictures get fewer bits than they had; else they are rounded. */
  pictureDither: setting(z.boolean(), 'Dither to 8 bit', yesOrNo),
} as const

export type Setting = keyof typeof settings
export type RecipeSettings = { -readonly [S in Setting]: z.infer<(typeof settings)[S]['schema']> }

const schemas = Object.fromEntries(Object.entries(settings).map(([name, s]) => [name, s.schema])) as {
  [S in Setting]: (typeof settings)[S]['schema']
}
/** Settings of what is drawn into pictures, with what each draws. */
export const burnIns = {
  burnTimecode: 'timecode',
  burnName: 'name',
  burnDate: 'date',
  burnMark: 'mark',
} as const satisfies Partial<Record<Setting, string>>
export const burnInSettings = Object.keys(burnIns) as (keyof typeof burnIns)[]

/** Values of some settings. */
export const someSettingsSchema = z.object(schemas).partial()

/** A setting's value in words. */
export function settingText(name: Setting, value: unknown): string {
  const { text } = settings[name] as SettingDefinition<z.ZodType>
  return text ? text(value) : String(value)
}

/** The value that typed text stands for; it is for the schema to say whether it may be. */
export function settingValue(name: Setting, text: string): unknown {
  return settings[name].parse(text.trim())
}

/** What settings are until a recipe says otherwise. */
export const plainSettings: RecipeSettings = {
  container: 'mov',
  width: null,
  height: null,
  fit: 'letterbox',
  trial: 'no',
  scaler: 'lanczos',
  scan: 'source',
  colour: 'source',
  table: null,
  channels: 'all',
  downmix: 'none',
  gain: 0,
  start: 'timeline',
  lineUp: null,
  breaks: null,
  partitions: null,
  stillFormat: 'dpx-10',
  firstNumber: null,
  digits: 7,
  separator: '.',
  stillAt: 'middle',
  handles: 0,
  pictureBitrate: 6000,
  soundBitrate: 256,
  burnTimecode: false,
  burnName: false,
  burnDate: false,
  burnMark: '',
  sampleRate: null,
  soundDepth: 24,
  proofSpread: 1,
  contactSheet: 0,
  dither: true,
  pictureDither: false,
}

/** All settings of a recipe; one that was made before a setting came has what it is until a recipe says otherwise. */
export const settingsSchema = z.object(
  Object.fromEntries(
    Object.entries(schemas).map(([name, s]) => [name, (s as z.ZodType).default(plainSettings[name as Setting])]),
  ) as { [S in Setting]: z.ZodDefault<(typeof settings)[S]['schema']> },
)
