import { z } from 'zod'

/** How a file is made. Every setting can be overridden for one region. */
export const recipeSchema = z.object({
  id: z.string().min(1),
  name: z.string().min(1),
  kind: z.enum(['rewrap', 'master', 'viewing', 'sound']),
  container: z.enum(['mov', 'mp4', 'wav']),
  /** Raster; null is the source's. */
  width: z.number().int().min(16).max(8192).multipleOf(2).nullable(),
  height: z.number().int().min(16).max(8192).multipleOf(2).nullable(),
  fit: z.enum(['letterbox', 'crop', 'stretch', 'unscaled']),
  /** Source channels (from 1; 0 is silence) in the order of the output's channels. */
  channels: z.union([z.literal('all'), z.literal('none'), z.array(z.number().int().min(0).max(64)).min(1).max(16)]),
  /** dB. */
  gain: z.number().min(-60).max(30),
  /** `timeline`, or the label of the first frame. */
  start: z.union([z.literal('timeline'), z.string().regex(/^\d\d:\d\d:\d\d[:;]\d\d$/)]),
  /** kbit/s. */
  pictureBitrate: z.number().int().min(100).max(200_000),
  /** kbit/s. */
  soundBitrate: z.number().int().min(32).max(640),
  burnTimecode: z.boolean(),
  burnName: z.boolean(),
  soundDepth: z.union([z.literal(16), z.literal(24)]),
})

export type Recipe = z.infer<typeof recipeSchema>
export type RecipeKind = Recipe['kind']
export type RecipeSettings = Omit<Recipe, 'id' | 'name' | 'kind'>
export type Setting = keyof RecipeSettings

/** Values that replace an outlet's recipe for one region. */
export const overridesSchema = recipeSchema.omit({ id: true, name: true, kind: true }).partial()
export type Overrides = z.infer<typeof overridesSchema>

/** The settings each kind of recipe has; only these are shown. */
export const settingsOf: Readonly<Record<RecipeKind, readonly Setting[]>> = {
  rewrap: ['container', 'start'],
  master: ['width', 'height', 'fit', 'channels', 'gain', 'start', 'burnTimecode', 'burnName'],
  viewing: [
    'width',
    'height',
    'fit',
    'pictureBitrate',
    'channels',
    'gain',
    'soundBitrate',
    'start',
    'burnTimecode',
    'burnName',
  ],
  sound: ['channels', 'gain', 'soundDepth', 'start'],
}

/** What a setting is called on screen. */
export const settingNames: Readonly<Record<Setting, string>> = {
  container: 'Container',
  width: 'Width',
  height: 'Lines',
  fit: 'Fit',
  channels: 'Sound channels',
  gain: 'Gain',
  start: 'Start timecode',
  pictureBitrate: 'Picture bit rate',
  soundBitrate: 'Sound bit rate',
  burnTimecode: 'Timecode in picture',
  burnName: 'Name in picture',
  soundDepth: 'Sound depth',
}

/** A setting's value in words. */
export function settingText(setting: Setting, value: unknown): string {
  switch (setting) {
    case 'width':
      return value === null ? 'as source' : `${value as number}`
    case 'height':
      return value === null ? 'as source' : `${value as number}`
    case 'gain':
      return `${(value as number) > 0 ? '+' : ''}${(value as number).toFixed(1).replace('-', '−')} dB`
    case 'pictureBitrate':
    case 'soundBitrate':
      return `${value as number} kbit/s`
    case 'soundDepth':
      return `${value as number} bit`
    case 'burnTimecode':
    case 'burnName':
      return value ? 'yes' : 'no'
    case 'channels':
      return Array.isArray(value) ? (value as number[]).map((c) => c || '–').join(' ') : String(value)
    case 'start':
      return value === 'timeline' ? 'from the timeline' : String(value)
    default:
      return String(value)
  }
}

export function withOverrides(recipe: Recipe, overrides: Overrides): Recipe {
  const own = Object.fromEntries(
    Object.entries(overrides).filter(([k, v]) => v !== undefined && settingsOf[recipe.kind].includes(k as Setting)),
  )
  return { ...recipe, ...own }
}

export function extensionOf(recipe: Pick<Recipe, 'container'>): string {
  return `.${recipe.container}`
}

const base: RecipeSettings = {
  container: 'mov',
  width: null,
  height: null,
  fit: 'letterbox',
  channels: 'all',
  gain: 0,
  start: 'timeline',
  pictureBitrate: 6000,
  soundBitrate: 192,
  burnTimecode: false,
  burnName: false,
  soundDepth: 24,
}

/** The four recipes that ship. */
export const shippedRecipes: readonly Recipe[] = [
  { ...base, id: 'rewrap', name: 'Rewrap', kind: 'rewrap' },
  { ...base, id: 'master', name: 'Uncompressed master', kind: 'master' },
  {
    ...base,
    id: 'viewing',
    name: 'Viewing copy',
    kind: 'viewing',
    container: 'mp4',
    width: 1280,
    height: 720,
    channels: [1, 2],
  },
  { ...base, id: 'sound', name: 'Sound', kind: 'sound', container: 'wav' },
]
