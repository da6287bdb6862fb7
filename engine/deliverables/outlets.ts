import { z } from 'zod'
import { fail } from '../../core/problem'
import { unusable } from '../../core/deliverable/names'
import { overridesSchema, recipeSchema, type Overrides, type Recipe } from '../../core/recipe/recipe'
import type { Waiver } from '../../core/spec/judge'
import { openSpec, shippedSpecs } from '../../core/spec/shipped'
import type { Spec } from '../../core/spec/spec'
import { bump, readSetting, writeSetting, type Db } from '../store/database'
import type { Roots } from '../storage/roots'

/** Who receives: a recipe, a spec, a name pattern, a destination. */
export const outletSchema = z.object({
  id: z.string().min(1),
  name: z.string().trim().min(1, 'give the outlet a name'),
  recipe: recipeSchema,
  /** Id of a spec on the shelf. */
  spec: z.string(),
  pattern: z.string().min(1),
  root: z.string(),
  folder: z.string(),
})
export type Outlet = z.infer<typeof outletSchema>

/** Which region goes to which outlet, and what is different for it. */
export interface Assignment {
  readonly timelineId: string
  readonly regionId: string
  readonly outletId: string
  readonly chosen: boolean
  readonly overrides: Overrides
  readonly waivers: readonly Waiver[]
}

export interface Cell {
  readonly timelineId: string
  readonly regionId: string
  readonly outletId: string
}

/** Keeps outlets, specs, and what is assigned to whom. */
export class Outlets {
  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
  ) {}

  async list(): Promise<Outlet[]> {
    const rows = await this.db.selectFrom('outlet').selectAll().orderBy('position').orderBy('id').execute()
    return rows.map((r) => ({
      id: r.id,
      name: r.name,
      recipe: JSON.parse(r.recipe) as Recipe,
      spec: r.spec,
      pattern: r.pattern,
      root: r.root,
      folder: r.folder,
    }))
  }

  async save(outlet: Outlet): Promise<void> {
    const place = outlet.folder === '' ? null : unusable(outlet.folder.replace(/\/$/, ''))
    if (place)
      fail(
        'outlet.folder',
        `The folder “${outlet.folder}” cannot be used: ${place}.`,
        outlet.name,
        'Type another folder.',
      )
    this.roots.root(outlet.root)
    const there = await this.db.selectFrom('outlet').select('position').where('id', '=', outlet.id).executeTakeFirst()
    const count = await this.db
      .selectFrom('outlet')
      .select((e) => e.fn.countAll<number>().as('n'))
      .executeTakeFirstOrThrow()
    const row = {
      name: outlet.name,
      recipe: JSON.stringify(outlet.recipe),
      spec: outlet.spec,
      pattern: outlet.pattern,
      root: outlet.root,
      folder: outlet.folder,
    }
    await this.db
      .insertInto('outlet')
      .values({ id: outlet.id, ...row, position: there?.position ?? Number(count.n) })
      .onConflict((c) => c.column('id').doUpdateSet(row))
      .execute()
    await bump(this.db, 'outlets')
  }

  async remove(id: string): Promise<void> {
    await this.db.deleteFrom('outlet').where('id', '=', id).execute()
    await bump(this.db, 'outlets')
  }

  /** Shipped specs and those the operator brought. */
  async specs(): Promise<Spec[]> {
    return [...shippedSpecs, ...(await readSetting<Spec[]>(this.db, 'specs', [])), openSpec]
  }

  async spec(id: string): Promise<Spec> {
    return (
      (await this.specs()).find((s) => s.id === id) ??
      fail('spec.unknown', `There is no spec called “${id}” on the shelf.`, id, 'Choose another spec for this outlet.')
    )
  }

  async saveSpec(spec: Spec): Promise<void> {
    if ([...shippedSpecs, openSpec].some((s) => s.id === spec.id))
      fail('spec.shipped', `“${spec.id}” is a spec that ships with the product.`, spec.name, 'Give yours another id.')
    const own = await readSetting<Spec[]>(this.db, 'specs', [])
    await writeSetting(this.db, 'specs', [...own.filter((s) => s.id !== spec.id), spec])
    await bump(this.db, 'outlets')
  }

  async assignments(): Promise<Assignment[]> {
    const rows = await this.db.selectFrom('assignment').selectAll().execute()
    return rows.map((r) => ({
      timelineId: r.timeline_id,
      regionId: r.region_id,
      outletId: r.outlet_id,
      chosen: r.chosen === 1,
      overrides: JSON.parse(r.overrides) as Overrides,
      waivers: JSON.parse(r.waivers) as Waiver[],
    }))
  }

  private async change(cells: readonly Cell[], to: (a: Assignment) => Assignment): Promise<void> {
    await this.db.transaction().execute(async (tx) => {
      for (const cell of cells) {
        const row = await tx
          .selectFrom('assignment')
          .selectAll()
          .where('timeline_id', '=', cell.timelineId)
          .where('region_id', '=', cell.regionId)
          .where('outlet_id', '=', cell.outletId)
          .executeTakeFirst()
        const now: Assignment = row
          ? {
              ...cell,
              chosen: row.chosen === 1,
              overrides: JSON.parse(row.overrides) as Overrides,
              waivers: JSON.parse(row.waivers) as Waiver[],
            }
          : { ...cell, chosen: false, overrides: {}, waivers: [] }
        const a = to(now)
        const values = {
          chosen: a.chosen ? 1 : 0,
          overrides: JSON.stringify(a.overrides),
          waivers: JSON.stringify(a.waivers),
        }
        await tx
          .insertInto('assignment')
          .values({ timeline_id: cell.timelineId, region_id: cell.regionId, outlet_id: cell.outletId, ...values })
          .onConflict((c) => c.columns(['timeline_id', 'region_id', 'outlet_id']).doUpdateSet(values))
          .execute()
      }
    })
    await bump(this.db, 'outlets')
  }

  choose(cells: readonly Cell[], chosen: boolean): Promise<void> {
    return this.change(cells, (a) => ({ ...a, chosen }))
  }

  /** Lays values over the outlet's recipe for these cells; the settings in `reset` go back to the recipe's. */
  override(cells: readonly Cell[], values: Overrides, reset: readonly string[] = []): Promise<void> {
    const set = overridesSchema.parse(values)
    return this.change(cells, (a) => ({
      ...a,
      overrides: Object.fromEntries(
        Object.entries({ ...a.overrides, ...set }).filter(([k]) => !reset.includes(k)),
      ) as Overrides,
    }))
  }

  waive(cells: readonly Cell[], waiver: Waiver): Promise<void> {
    return this.change(cells, (a) => ({ ...a, waivers: [...a.waivers.filter((w) => w.rule !== waiver.rule), waiver] }))
  }

  unwaive(cells: readonly Cell[], rule: string): Promise<void> {
    return this.change(cells, (a) => ({ ...a, waivers: a.waivers.filter((w) => w.rule !== rule) }))
  }
}
