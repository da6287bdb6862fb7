import path from 'node:path'
import { takenFrom, type Draft } from '../../core/deliverable/draft'
import { expandPattern, unusable } from '../../core/deliverable/names'
import { keyText } from '../../core/deliverable/outlet'
import { collisions, freePath, versioned } from '../../core/deliverable/versions'
import { entryOf, isRun } from '../../core/files/fileset'
import { fileNameOf, recipeKind } from '../../core/recipe/registry'
import { heardLayout } from '../../core/recipe/soundtaken'
import { isTrial, trialFolder } from '../../core/recipe/trial'

/** A draft's name as its pattern gives it on a day; which version is free is asked of the disk every time. */
export interface Name {
  readonly day: string
  readonly first: string
  /** Why the first cannot be used; null when it can. */
  readonly bad: string | null
  readonly make: (version: number) => string
}

/** Where a draft goes: the version of its name that is free, and what is wrong with it. */
export interface Target {
  readonly path: string
  readonly version: number
  readonly bad: string | null
}

/** The names of drafts, as their patterns give them; kept for a day, for dates are those of the run. */
export class DraftNames {
  private readonly named = new WeakMap<Draft, Name>()

  of(d: Draft, today: Date): Name {
    const day = today.toDateString()
    const kept = this.named.get(d)
    if (kept?.day === day) return kept
    const folder = path.posix.join(d.outlet.folder.replace(/\/+$/, ''), isTrial(d.recipe) ? trialFolder : '')
    const { file } = d.timeline
    const context = {
      show: d.timeline.show,
      timeline: d.timeline.model,
      region: d.region,
      number: d.number,
      outlet: d.outlet.name,
      output: d.output,
      layout: heardLayout(d.output, d.source, d.route),
      source: path.basename(file.path, path.extname(file.path)),
      taken: () => takenFrom(d.timeline, d.region.in + d.handles.before),
      today,
    }
    const made = new Map<number, string>()
    const pathOf = versioned((version) =>
      path.posix.join(folder, expandPattern(d.outlet.pattern, { ...context, version })),
    )
    const make = (version: number) => {
      const known = made.get(version)
      if (known !== undefined) return known
      const name = fileNameOf(d.recipe, pathOf(version), d.output)
      made.set(version, name)
      return name
    }
    const first = make(1)
    // a name of one file may not be read as that of many
    const many = isRun(first) && !recipeKind(d.recipe).fileName ? 'it reads like the name of a run of stills' : null
    const name = { day, first, bad: unusable(first) ?? many, make }
    this.named.set(d, name)
    return name
  }
}

/** The version of a name that is free in a storage root; `doubled`: why another one's name stands in its way. */
export function targetOf(
  { first, bad, make }: Name,
  doubled: string | undefined,
  isThere: (path: string) => boolean,
): Target {
  if (bad) return { path: first, version: 1, bad }
  const free = freePath(make, (p) => isThere(entryOf(p)))
  return { ...free, bad: (free.version > 1 ? unusable(free.path) : null) ?? doubled ?? null }
}

/** Why another one's name stands in the way of a draft's, by position. */
export function doubledOf(
  drafts: readonly Draft[],
  names: readonly Name[],
  superseded: ReadonlySet<string>,
): Map<number, string> {
  const out = new Map<number, string>()
  for (const list of collisions(names.map((n, i) => `${drafts[i]!.outlet.root}:${entryOf(n.first)}`)).values())
    for (const i of list) {
      const isOlder = (k: number) => superseded.has(keyText(drafts[k]!.key))
      // what a newer version stands in for stays back; it does not keep that from its name
      const other = drafts[list.find((k) => k !== i && !isOlder(k)) ?? -1]
      if (!other && !isOlder(i)) continue
      out.set(
        i,
        other
          ? `“${other.region.name}” for ${other.outlet.name} would get the same name`
          : 'a newer version of it would get the same name',
      )
    }
  return out
}
