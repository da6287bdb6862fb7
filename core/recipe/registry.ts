import { z } from 'zod'
import { fail } from '../problem'
import { broadcast, broadcast50 } from './broadcast'
import { copiedStills } from './copiedstills'
import { listed } from '../text'
import { master } from './master'
import { d10, mpeg2 } from './mpeg2'
import type { Output } from './output'
import type { Overrides, Recipe, RecipeKind } from './recipe'
import { rewrap } from './rewrap'
import { settings as allSettings, settingsSchema, someSettingsSchema, type Setting } from './settings'
import { sound } from './sound'
import { sequence, still } from './stills'
import { viewing } from './viewing'

/** Ways to make a file: a new one is its own file and its line here. */
export const recipeKinds: RecipeKind[] = [
  ...[rewrap, broadcast, broadcast50, mpeg2, d10, master, viewing, sound],
  ...[sequence, still, copiedStills],
]

/** The kind a recipe is of; one that is none of ours is a problem, never taken for another. */
export function recipeKind(recipe: Pick<Recipe, 'kind'>): RecipeKind {
  return (
    recipeKinds.find((k) => k.kind === recipe.kind) ??
    fail(
      'recipe.unknown',
      `Recipes of kind “${recipe.kind}” are not known here.`,
      recipe.kind,
      `Choose one of ${listed(
        recipeKinds.map((k) => k.kind),
        'or',
      )}.`,
    )
  )
}

/** The name of a recipe's file by the path that a pattern gives: with its ending, and folders of its own. */
export function fileNameOf(recipe: Recipe, path: string, output: Output): string {
  return recipeKind(recipe).fileName?.(path, recipe, output) ?? `${path}${endingOf(recipe)}`
}

/** What is put behind a name that a pattern gives, for people to see. */
export function endingOf(recipe: Recipe): string {
  return recipeKind(recipe).ending?.(recipe) ?? `.${recipe.container}`
}

/** A recipe as it is stored and sent. */
export const recipeSchema = settingsSchema.extend({
  id: z.string().min(1),
  name: z.string().min(1),
  kind: z.string().refine((k) => recipeKinds.some((x) => x.kind === k), 'this kind of recipe is not known here'),
})

export const overridesSchema: z.ZodType<Overrides, Overrides> = someSettingsSchema

/** The recipes that ship, one of each kind. */
export function shippedRecipes(): Recipe[] {
  return recipeKinds.map((k) => k.shipped)
}

/**
 * A recipe with values laid over it. What its kind has no setting for is what it is in the one that ships, whatever
 * stands in the recipe: nothing works that nobody sees.
 */
export function withOverrides(recipe: Recipe, overrides: Overrides): Recipe {
  const { settings, shipped } = recipeKind(recipe)
  const has = (k: string) => settings.includes(k as Setting)
  const hidden = Object.entries(shipped).filter(([k]) => k in allSettings && !has(k))
  const own = Object.entries(overrides).filter(([k, v]) => v !== undefined && has(k))
  return { ...recipe, ...Object.fromEntries(hidden), ...Object.fromEntries(own) }
}
