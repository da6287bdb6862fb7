import { sourceChannels, routeOf } from '../recipe/output'
import { settingNames, settingsOf, settingText, type Overrides, type Recipe, type Setting } from '../recipe/recipe'
import type { MediaInfo } from '../media/media'
import type { RuleResult } from '../spec/judge'

/** Settings that would make a rule pass, and what to call the change. */
export interface Fix {
  readonly label: string
  readonly overrides: Overrides
}

function plainFix(result: RuleResult, recipe: Recipe, source: MediaInfo): Overrides | null {
  const { rule } = result
  const e = rule.expect
  const wanted = 'equals' in e ? e.equals : 'oneOf' in e ? e.oneOf[0] : null
  switch (rule.measure) {
    case 'raster': {
      const m = typeof wanted === 'string' ? /^(\d+)x(\d+)$/.exec(wanted) : null
      return m
        ? { width: Number(m[1]), height: Number(m[2]), fit: recipe.fit === 'unscaled' ? 'letterbox' : recipe.fit }
        : null
    }
    case 'channels': {
      if (typeof wanted !== 'number' || wanted < 1) return null
      const route = routeOf(recipe, sourceChannels(source))
      if (sourceChannels(source) < wanted && route.length < wanted) return null
      return { channels: Array.from({ length: wanted }, (_, i) => (route.length >= wanted ? route[i]! : i) + 1) }
    }
    case 'silent-channel': {
      // programme sound on one leg only: the leg that has it serves both
      const silent = /^channel (\d+)$/.exec((result.forecast ?? result.source)?.text ?? '')
      const route = routeOf(recipe, sourceChannels(source))
      if (!silent || route.length !== 2) return null
      const other = route[Number(silent[1]) === 1 ? 1 : 0]! + 1
      return { channels: [other, other] }
    }
    case 'start-timecode':
      return typeof wanted === 'string' && /^\d\d:\d\d:\d\d[:;]\d\d$/.test(wanted) ? { start: wanted } : null
    case 'loudness': {
      const now = result.forecast?.value
      const target = 'target' in e ? e.target : 'max' in e || 'min' in e ? (e.max ?? e.min ?? null) : null
      if (typeof now !== 'number' || !Number.isFinite(now) || target === null) return null
      const gain = Math.round((recipe.gain + target - now) * 10) / 10
      return Math.abs(gain) <= 30 ? { gain } : null
    }
    case 'true-peak': {
      const now = result.forecast?.value
      if (typeof now !== 'number' || !('max' in e) || e.max === undefined) return null
      return { gain: Math.floor((recipe.gain + e.max - now - 0.05) * 10) / 10 }
    }
    case 'sound-depth':
      return wanted === 16 || wanted === 24 ? { soundDepth: wanted } : null
    default:
      return null
  }
}

/** The plain fix for a rule that fails, if there is one and this recipe has the settings for it. */
export function fixFor(result: RuleResult, recipe: Recipe, source: MediaInfo): Fix | null {
  if (result.verdict !== 'fail' && result.verdict !== 'caution') return null
  const overrides = plainFix(result, recipe, source)
  if (!overrides) return null
  const keys = Object.keys(overrides) as Setting[]
  if (
    !keys.every((k) => settingsOf[recipe.kind].includes(k)) ||
    keys.every((k) => JSON.stringify(recipe[k]) === JSON.stringify(overrides[k]))
  )
    return null
  const changed = keys.filter((k) => JSON.stringify(recipe[k]) !== JSON.stringify(overrides[k]))
  return {
    label: changed
      .map((k) => `${settingNames[k]} ${settingText(k, recipe[k])} → ${settingText(k, overrides[k])}`)
      .join(', '),
    overrides,
  }
}
