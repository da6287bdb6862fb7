import type { Recipe } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { plainSettings, type RecipeSettings } from '../recipe/settings'
import type { FrozenDeliverable } from './sheet'

/** JSON in which the order of keys says nothing. */
function canonical(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) =>
    typeof v === 'object' && v !== null && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  )
}

/**
 * The settings that say something about a file: those that its kind has, where they are not what every recipe was
 * before it had them. So a setting that a later edition brings makes no file another one.
 */
function saidBy(recipe: Recipe): Partial<RecipeSettings> {
  const said = recipeKind(recipe).settings.filter((s) => canonical(recipe[s]) !== canonical(plainSettings[s]))
  return Object.fromEntries(said.map((s) => [s, recipe[s]]))
}

/**
 * What makes a deliverable the same one as another: the media it is made from, its region, and all that its outlet
 * asks. Where it goes, and what was forecast of it, is not part of that.
 */
export function identityOf(d: FrozenDeliverable): string {
  const { output, source, region, chapters, outlet, recipe, spec, route } = d
  const { problems: _problems, notes: _notes, bytes: _bytes, ...file } = output
  return canonical({
    media: source.fingerprint.content,
    size: source.fingerprint.size,
    region: { name: region.name, in: region.in, out: region.out, metadata: region.metadata },
    chapters,
    outlet: outlet.id,
    recipe: { kind: recipe.kind, ...saidBy(recipe) },
    spec,
    route,
    file,
  })
}
