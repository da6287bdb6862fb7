import type { MediaInfo } from '../media/media'
import { measureOf } from '../measure/registry'
import type { Overrides, Recipe } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { settings, settingText, type Setting } from '../recipe/settings'
import type { RuleResult } from '../spec/judge'

/** Settings that would make a rule pass, and what to call the change. */
export interface Fix {
  readonly label: string
  readonly overrides: Overrides
}

/** The plain fix for a rule that fails, if there is one and this recipe has the settings for it. */
export function fixFor(result: RuleResult, recipe: Recipe, media: MediaInfo): Fix | null {
  if (result.verdict !== 'fail' && result.verdict !== 'caution') return null
  const { rule, forecast, source } = result
  const overrides = measureOf(rule.measure).fix?.({ expect: rule.expect, forecast, source, recipe, media })
  if (!overrides) return null
  const has = recipeKind(recipe).settings
  const keys = Object.keys(overrides) as Setting[]
  if (
    !keys.every((k) => has.includes(k)) ||
    keys.every((k) => JSON.stringify(recipe[k]) === JSON.stringify(overrides[k]))
  )
    return null
  const changed = keys.filter((k) => JSON.stringify(recipe[k]) !== JSON.stringify(overrides[k]))
  return {
    label: changed
      .map((k) => `${settings[k].label} ${settingText(k, recipe[k])} → ${settingText(k, overrides[k])}`)
      .join(', '),
    overrides,
  }
}
