import type { Selectable } from 'kysely'
import { LRUCache } from 'lru-cache'
import { keyText, type DeliverableChoice, type Outlet } from '../../core/deliverable/outlet'
import type { Tables } from './database'
import { kept } from './stored'

/** An outlet as it is stored; the one place that reads its columns. */
export function outletOf({ position: _, recipe, kinds, checksums, ...row }: Selectable<Tables['outlet']>): Outlet {
  const where = `outlet “${row.name}”`
  return {
    ...row,
    recipe: kept.recipe.read(recipe, where),
    ...(kinds === null ? {} : { kinds: kept.kinds.read(kinds, where) }),
    ...(checksums === null ? {} : { checksums: kept.checksums.read(checksums, where) }),
  }
}

export function outletColumns(o: Outlet): Omit<Tables['outlet'], 'id' | 'position'> {
  const { id: _, recipe, kinds, checksums, ...outlet } = o
  return {
    ...outlet,
    recipe: kept.recipe.write(recipe),
    kinds: kinds?.length ? kept.kinds.write(kinds) : null,
    checksums: checksums ? kept.checksums.write(checksums) : null,
  }
}

/** Most choices of thousands say the same: what was read once is not read again. */
const known = new LRUCache<string, Pick<DeliverableChoice, 'overrides' | 'waivers'>>({ max: 2000 })

/** What was decided of a deliverable, as it is stored; the one place that reads its columns. */
export function choiceOf(row: Selectable<Tables['choice']>): DeliverableChoice {
  const key = { timelineId: row.timeline_id, regionId: row.region_id, outletId: row.outlet_id }
  const text = `${row.overrides}\n${row.waivers}`
  let said = known.get(text)
  if (!said) {
    const where = `choice ${keyText(key)}`
    said = { overrides: kept.overrides.read(row.overrides, where), waivers: kept.waivers.read(row.waivers, where) }
    known.set(text, said)
  }
  return { ...key, chosen: row.chosen === 1, ...said }
}

export function choiceColumns(c: DeliverableChoice): Pick<Tables['choice'], 'chosen' | 'overrides' | 'waivers'> {
  return {
    chosen: c.chosen ? 1 : 0,
    overrides: kept.overrides.write(c.overrides),
    waivers: kept.waivers.write([...c.waivers]),
  }
}
