import type { ArgsDef, CommandDef } from 'citty'
import { nameFields } from '../core/deliverable/names'
import { recipeKind, shippedRecipes } from '../core/recipe/registry'
import { shippedSpecs } from '../core/spec/shipped'
import type { SplitMaker } from '../core/split/makers/maker'
import { splitMakers } from '../core/split/makers/registry'
import { regionNameFields } from '../core/split/naming'

const two = (rows: readonly (readonly [string, string])[]) => {
  const width = Math.max(...rows.map(([a]) => a.length))
  return rows.map(([a, b]) => `  ${a.padEnd(width)}  ${b}`).join('\n')
}

/** What a command takes, and, where it takes them, the specs, recipes, settings and name fields there are. */
export function helpText(name: string, command: CommandDef<ArgsDef>): string {
  const args = Object.entries((command.args ?? {}) as ArgsDef)
  const placed = args.filter(([, a]) => a.type === 'positional')
  const options = args.filter(([, a]) => a.type !== 'positional')
  const meta = command.meta as { description?: string }
  const has = (key: string) => options.some(([k]) => k === key)
  const parts = [
    `usage: ./velvet ${name} ${placed.map(([k]) => k.toUpperCase()).join(' ')} [options]`,
    meta.description ?? '',
    two(placed.map(([k, a]) => [k.toUpperCase(), a.description ?? ''] as const)),
    two(
      options.map(([k, a]) => {
        const value = a.type === 'boolean' ? '' : ' VALUE'
        return [`--${k}${value}`, `${a.description ?? ''}${a.required ? ' (needed)' : ''}`] as const
      }),
    ),
  ]
  if (has('spec') || has('outlet')) parts.push(`specs:\n${two(shippedSpecs.map((s) => [s.id, s.name] as const))}`)
  if (has('recipe'))
    parts.push(
      `recipes and their settings:\n${two(
        shippedRecipes().map((r) => [r.kind, `${recipeKind(r).label}; ${recipeKind(r).settings.join(', ')}`] as const),
      )}`,
    )
  if (has('by')) {
    const settings = (m: SplitMaker) => Object.keys(m.settings ?? {}).join(', ')
    const about = (m: SplitMaker) => `${m.hint}${settings(m) && ` (${settings(m)})`}`
    parts.push(`ways to split and their settings:\n${two(splitMakers.map((m) => [m.name, about(m)] as const))}`)
    const fields = Object.entries(regionNameFields)
    parts.push(`fields of names:\n${two(fields.map(([key, f]) => [`{${key}}`, f.text] as const))}`)
  }
  if (has('name'))
    parts.push(`fields of names:\n${two(Object.entries(nameFields).map(([key, f]) => [`{${key}}`, f.text] as const))}`)
  return `${parts.filter(Boolean).join('\n\n')}\n`
}
