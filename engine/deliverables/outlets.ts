import { listed } from '../../core/text'
import { readable, readableOr } from '../store/damage'
import { unusable } from '../../core/deliverable/names'
import { keyText, type DeliverableChoice, type DeliverableKey, type Outlet } from '../../core/deliverable/outlet'
import { fail } from '../../core/problem'
import type { Overrides } from '../../core/recipe/recipe'
import { overridesSchema } from '../../core/recipe/registry'
import type { ShelfTable } from '../../contract/shelf'
import type { Waiver } from '../../core/spec/waiver'
import { openSpec, shippedSpecs } from '../../core/spec/shipped'
import type { Spec } from '../../core/spec/spec'
import type { Roots } from '../storage/roots'
import { changesAfter, lastChange, noteChange } from '../store/changes'
import { isUnderWay, keepTable, listTables, removeTable } from '../store/tables'
import type { Db } from '../store/database'
import { choiceColumns, choiceOf, outletColumns, outletOf } from '../store/outlets'
import { readSetting, writeSetting } from '../store/settings'

/** A newer list in which what says the same is the same object. */
function sameWhereEqual<T>(before: readonly T[], now: readonly T[], key: (x: T) => string): T[] {
  const old = new Map(before.map((x) => [key(x), x]))
  return now.map((x) => {
    const was = old.get(key(x))
    return was && JSON.stringify(was) === JSON.stringify(x) ? was : x
  })
}

/** What deliverables follow from, beside timelines. */
interface All {
  readonly outlets: Outlet[]
  readonly specs: Spec[]
  readonly tables: ShelfTable[]
  readonly choices: DeliverableChoice[]
}

/** Keeps outlets, specs, look-up tables, and what is chosen for whom. */
export class Outlets {
  private kept: (All & { at: number }) | null = null

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
  ) {}

  /** Outlets, specs, tables and choices. What did not change since the last call stays the same objects. */
  async all(): Promise<All> {
    const changes = this.kept ? await changesAfter(this.db, this.kept.at) : null
    const at = changes ? (changes.at(-1)?.id ?? this.kept!.at) : await lastChange(this.db)
    if (this.kept && changes && !changes.some((c) => c.topic === 'outlets' || c.topic === 'timelines'))
      this.kept = { ...this.kept, at }
    else {
      const before = this.kept
      this.kept = {
        at,
        outlets: sameWhereEqual(before?.outlets ?? [], await this.list(), (o) => o.id),
        specs: sameWhereEqual(before?.specs ?? [], await this.specs(), (s) => s.id),
        tables: sameWhereEqual(before?.tables ?? [], await this.tables(), (t) => t.id),
        choices: sameWhereEqual(before?.choices ?? [], await this.choices(), keyText),
      }
    }
    return this.kept
  }

  async list(): Promise<Outlet[]> {
    const rows = await this.db.selectFrom('outlet').selectAll().orderBy('position').orderBy('id').execute()
    return readable(this.db, rows, outletOf)
  }

  async save(outlet: Outlet): Promise<void> {
    const bad = outlet.folder === '' ? null : unusable(outlet.folder.replace(/\/$/, ''))
    if (bad)
      fail(
        'outlet.folder',
        `The folder “${outlet.folder}” cannot be used: ${bad}.`,
        outlet.name,
        'Type another folder.',
      )
    this.roots.root(outlet.root)
    const there = await this.db.selectFrom('outlet').select('position').where('id', '=', outlet.id).executeTakeFirst()
    const count = await this.db
      .selectFrom('outlet')
      .select((e) => e.fn.countAll<number>().as('n'))
      .executeTakeFirstOrThrow()
    const row = outletColumns(outlet)
    await this.db
      .insertInto('outlet')
      .values({ id: outlet.id, ...row, position: there?.position ?? Number(count.n) })
      .onConflict((c) => c.column('id').doUpdateSet(row))
      .execute()
    await noteChange(this.db, 'outlets', outlet.id)
  }

  async remove(id: string): Promise<void> {
    const r = await this.db.deleteFrom('outlet').where('id', '=', id).executeTakeFirst()
    if (r.numDeletedRows === 0n) fail('outlet.unknown', 'This outlet is not here any more.', id, 'Choose another one.')
    await noteChange(this.db, 'outlets', id)
  }

  /** Shipped specs and those the operator brought. */
  async specs(): Promise<Spec[]> {
    const own = await readableOr(this.db, readSetting(this.db, 'specs'), [])
    return [...shippedSpecs, ...own, openSpec]
  }

  async saveSpec(spec: Spec): Promise<void> {
    if ([...shippedSpecs, openSpec].some((s) => s.id === spec.id))
      fail('spec.shipped', `“${spec.id}” is a spec that ships with the product.`, spec.name, 'Give yours another id.')
    const own = await readSetting(this.db, 'specs')
    await writeSetting(this.db, 'specs', [...own.filter((s) => s.id !== spec.id), spec])
    await noteChange(this.db, 'outlets', spec.id)
  }

  async removeSpec(id: string): Promise<void> {
    if ([...shippedSpecs, openSpec].some((s) => s.id === id))
      fail('spec.shipped', 'This spec ships with the product; it stays.', id, 'Choose one that was added.')
    const own = await readSetting(this.db, 'specs')
    if (!own.some((s) => s.id === id))
      fail('spec.unknown', 'This spec is not here any more.', id, 'Choose another one.')
    const used = (await this.list()).filter((o) => o.spec === id).map((o) => `“${o.name}”`)
    if (used.length)
      fail(
        'spec.used',
        `The spec is what ${used.join(', ')} ${used.length === 1 ? 'is' : 'are'} held against.`,
        id,
        'Give these outlets another spec first.',
      )
    await writeSetting(
      this.db,
      'specs',
      own.filter((s) => s.id !== id),
    )
    await noteChange(this.db, 'outlets', id)
  }

  /** Look-up tables that recipes can go by. */
  tables(): Promise<ShelfTable[]> {
    return listTables(this.db)
  }

  async saveTable(file: string, text: string): Promise<ShelfTable> {
    const table = await keepTable(this.db, file, text)
    await noteChange(this.db, 'outlets', table.id)
    return table
  }

  async removeTable(id: string): Promise<void> {
    const outlets = await this.list()
    const own = outlets.filter((o) => o.recipe.table === id).map((o) => o.id)
    const overridden = (await this.choices()).filter((c) => c.overrides.table === id).map((c) => c.outletId)
    const used = outlets.filter((o) => own.includes(o.id) || overridden.includes(o.id)).map((o) => `“${o.name}”`)
    if (used.length)
      fail(
        'table.used',
        `Pictures for ${listed(used)} go through this table.`,
        id,
        'Give these outlets and their regions another one first.',
      )
    if (await isUnderWay(this.db, id))
      fail('table.used', 'A night that is not done goes by this table.', id, 'Wait until it is done, or stop it.')
    await removeTable(this.db, id)
    await noteChange(this.db, 'outlets', id)
  }

  async choices(): Promise<DeliverableChoice[]> {
    return readable(this.db, await this.db.selectFrom('choice').selectAll().execute(), choiceOf)
  }

  choose(keys: readonly DeliverableKey[], chosen: boolean): Promise<void> {
    return this.change(keys, (c) => ({ ...c, chosen }))
  }

  /** Lays values over the outlet's recipe for these deliverables; the settings in `reset` go back to the recipe's. */
  override(keys: readonly DeliverableKey[], values: Overrides, reset: readonly string[] = []): Promise<void> {
    const set = overridesSchema.parse(values)
    const laid = (c: DeliverableChoice) => Object.entries({ ...c.overrides, ...set })
    return this.change(keys, (c) => ({
      ...c,
      overrides: Object.fromEntries(laid(c).filter(([k]) => !reset.includes(k))) as Overrides,
    }))
  }

  waive(keys: readonly DeliverableKey[], waiver: Waiver): Promise<void> {
    return this.change(keys, (c) => ({
      ...c,
      waivers: [...c.waivers.filter((w) => w.rule !== waiver.rule), waiver],
    }))
  }

  unwaive(keys: readonly DeliverableKey[], rule: string): Promise<void> {
    return this.change(keys, (c) => ({ ...c, waivers: c.waivers.filter((w) => w.rule !== rule) }))
  }

  private async change(
    keys: readonly DeliverableKey[],
    to: (c: DeliverableChoice) => DeliverableChoice,
  ): Promise<void> {
    await this.db.transaction().execute(async (tx) => {
      for (const key of keys) {
        const row = await tx
          .selectFrom('choice')
          .selectAll()
          .where('timeline_id', '=', key.timelineId)
          .where('region_id', '=', key.regionId)
          .where('outlet_id', '=', key.outletId)
          .executeTakeFirst()
        const c = to(row ? choiceOf(row) : { ...key, chosen: false, overrides: {}, waivers: [] })
        const values = choiceColumns(c)
        await tx
          .insertInto('choice')
          .values({ timeline_id: key.timelineId, region_id: key.regionId, outlet_id: key.outletId, ...values })
          .onConflict((x) => x.columns(['timeline_id', 'region_id', 'outlet_id']).doUpdateSet(values))
          .execute()
      }
    })
    await noteChange(this.db, 'outlets', keys.length === 1 ? keyText(keys[0]!) : '')
  }
}
