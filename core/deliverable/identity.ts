import { canonical } from '../canonical'
import type { Recipe } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { plainSettings, settings, type Setting } from '../recipe/settings'
import { essenceOf, type Essence } from '../timeline/assembly/essence'
import { codesPictures } from '../job/taking'
import { topLine, type FrozenDeliverable } from './sheet'

/** What a deliverable follows from, by part: each as text that is the same for the same. */
export type Parts = Readonly<Record<string, string>>

/**
 * The settings that say something about a file: those that its kind has, where they are not what every recipe was
 * before it had them. So a setting that a later edition brings makes no file another one.
 */
function saidBy(
  recipe: Recipe,
  asked: (setting: { readonly unseen?: true }) => boolean = () => true,
): [string, string][] {
  return recipeKind(recipe)
    .settings.filter((s) => asked(settings[s]))
    .map((s): [Setting, string] => [s, canonical(recipe[s])])
    .filter(([s, value]) => value !== canonical(plainSettings[s]))
    .map(([s, value]) => [`setting ${s}`, value])
}

/** What a specification requires, whatever words it has for it. */
const requiredBy = (spec: FrozenDeliverable['spec']): unknown =>
  JSON.parse(JSON.stringify(spec, (key, value: unknown) => (key === 'says' ? undefined : value)))

/** What is seen and heard in it, or seen alone, and the contents of the files that is taken from. */
function essenceIn({ assembly, source, region, output }: FrozenDeliverable, heard: boolean): Essence {
  const { content, size } = source.fingerprint
  const said = source.scan ? [source.scan] : []
  return assembly
    ? essenceOf(assembly, region, heard ? (output.audio?.sampleRate ?? assembly.sampleRate) : null)
    : { files: [`${content}-${size}`, ...said], made: [content, size, region.in, region.out, ...said] }
}

/**
 * What makes a deliverable the same one as another: what is seen and heard in it, what its region is called, and all
 * that its outlet asks. Where it goes, and what was forecast of it, is not part of that. A region of another version
 * of a timeline is the same, wherever it lies there, when its pictures and its sound are.
 */
export function partsOf(d: FrozenDeliverable): Parts {
  const { output, region, chapters, outlet, recipe, spec, route } = d
  const { problems: _problems, notes: _notes, bytes: _bytes, bytesOff: _off, start, ...file } = output
  const { video, audio, structure: built } = output
  const essence = essenceIn(d, true)
  const parts = {
    essence: essence.made,
    media: essence.files,
    name: region.name,
    in: region.in,
    out: region.out,
    papers: region.metadata,
    chapters,
    outlet: outlet.id,
    recipe: recipe.kind,
    spec: requiredBy(spec),
    route,
    start,
    // what is said of it besides follows from the rest
    file: {
      ...file,
      ...(video ? { video: ownOf(video) } : {}),
      ...(audio ? { audio: { ...audio, each: undefined } } : {}),
      ...(built ? { structure: { pattern: built.pattern, wrapping: built.wrapping } } : {}),
    },
  }
  const said = Object.entries(parts).map(([name, value]): [string, string] => [name, canonical(value)])
  return Object.fromEntries([...said, ...saidBy(recipe)])
}

/** What is said of a file's pictures and follows from what they are, or from their source. */
const follows = ['level', 'intra', 'pictureBytes', 'contradictions', 'untold', 'presentation'] as const
const ownOf = (video: NonNullable<FrozenDeliverable['output']['video']>) => ({
  ...video,
  ...Object.fromEntries(follows.map((name) => [name, undefined])),
})

/**
 * What makes the coded pictures of a deliverable the same as another's, in the same places of their files; null of one
 * whose pictures are not coded for it. Two that are told apart may be alike.
 */
export function picturesIdentityOf(d: FrozenDeliverable): string | null {
  const { output, recipe, damaged } = d
  if (!output.video || !d.steps.some((s) => codesPictures(s.kind))) return null
  return canonical({
    essence: essenceIn(d, false).made,
    video: ownOf(output.video),
    container: output.container,
    places: [output.frames, output.perFrame ?? 1, output.sections, output.start],
    kind: recipe.kind,
    settings: saidBy(recipe, ({ unseen }) => !unseen),
    drawn: topLine(d),
    damaged,
  })
}

/** What only tells why what is seen and heard is another. */
const telling = new Set(['media', 'in', 'out'])
/** What follows from other parts: said only where nothing else is different. */
const following = new Set(['start', 'file'])

export const identityOf = (d: FrozenDeliverable): string =>
  canonical(Object.fromEntries(Object.entries(partsOf(d)).filter(([name]) => !telling.has(name))))

/** The parts in which two deliverables differ; none when they are the same. */
export function changedParts(before: Parts, now: Parts): string[] {
  const all = [...new Set([...Object.keys(before), ...Object.keys(now)])].filter((n) => before[n] !== now[n])
  const other = all.includes('essence')
  const why = other && all.some((n) => telling.has(n))
  const names = all.filter((n) => (n === 'essence' ? !why : other || !telling.has(n)))
  const own = names.filter((n) => !following.has(n))
  return own.length ? own : names
}

const partWords: Readonly<Record<string, string>> = {
  essence: 'the cut within it',
  media: 'media',
  name: 'name',
  in: 'first frame',
  out: 'last frame',
  papers: 'papers',
  chapters: 'chapters',
  outlet: 'outlet',
  recipe: 'kind of recipe',
  spec: 'what the recipient requires',
  route: 'sound channels',
  start: 'start timecode',
  file: 'what is made of it',
}

/** A part in words. */
export function partText(part: string): string {
  const setting = part.replace(/^setting /, '')
  return partWords[part] ?? (setting in settings ? settings[setting as Setting].label.toLowerCase() : setting)
}
