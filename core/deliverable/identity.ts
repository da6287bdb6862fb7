import { recipeKind } from '../recipe/registry'
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
    // settings that its kind does not have say nothing about the file
    recipe: { kind: recipe.kind, ...Object.fromEntries(recipeKind(recipe).settings.map((s) => [s, recipe[s]])) },
    spec,
    route,
    file,
  })
}
