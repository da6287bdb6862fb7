import { createHash } from 'node:crypto'
import { sql, type Transaction } from 'kysely'
import { fail, toProblem, type Problem } from '../../core/problem'
import { mainFile, type Proof } from '../../core/deliverable/proof'
import { programmeFrames } from '../../core/lineup/lineup'
import { chiefSum } from '../../core/files/checksums'
import { stepKind } from '../../core/job/steps'
import { isTrial } from '../../core/recipe/trial'
import { reportEntry } from '../../core/deliverable/report'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { identityOf, partsOf, picturesIdentityOf, type Parts } from '../../core/deliverable/identity'
import { keyText } from '../../core/deliverable/outlet'
import { noteChange } from './changes'
import type { Db, DeliverableRow, Tables } from './database'
import { kept } from './stored'

/** A deliverable's row; a problem when it is not there. */
export async function deliverableRow(db: Db, id: string): Promise<DeliverableRow> {
  const row = await db.selectFrom('deliverable').selectAll().where('id', '=', id).executeTakeFirst()
  return row ?? fail('deliverable.unknown', 'This deliverable is not here any more.', id, 'Look at the run again.')
}

/** A frozen deliverable as it is stored; the one place that reads it. */
export function frozenOf(row: Pick<DeliverableRow, 'id' | 'sheet'>): FrozenDeliverable {
  return kept.frozen.read(row.sheet, `deliverable ${row.id}`)
}

/** The proof of a deliverable as it is stored; null until it has one. */
export function proofOf(row: Pick<DeliverableRow, 'id' | 'result'>): Proof | null {
  return row.result === null ? null : kept.proof.read(row.result, `deliverable ${row.id}`)
}

/** What went wrong with a deliverable or a step; null when nothing did. One that is damaged is said in its place. */
export function problemOf(row: { readonly id: string | number; readonly problem: string | null }): Problem | null {
  if (row.problem === null) return null
  try {
    return kept.problem.read(row.problem, `problem of ${row.id}`)
  } catch (e) {
    return toProblem(e)
  }
}

/** The columns that a file's name and proof are noted in. */
export function provenColumns(item: FrozenDeliverable, finalPath: string, proof: Proof): Partial<DeliverableRow> {
  return {
    result: kept.proof.write(proof),
    final_path: finalPath,
    verdict: proof.verdict,
    bytes: mainFile(proof).size,
    report: isTrial(item.recipe) ? null : kept.reportEntry.write(reportEntry(item, finalPath, proof)),
  }
}

const sha256 = (text: string) => createHash('sha256').update(text).digest('hex')

/** The sum that a deliverable is known again by. */
export const identitySum = (d: FrozenDeliverable) => sha256(identityOf(d))

/** The sum that its coded pictures are known again by; null where none are coded for it. */
export function picturesSum(d: FrozenDeliverable): string | null {
  const identity = picturesIdentityOf(d)
  return identity === null ? null : sha256(identity)
}

/** A file that was delivered and proven, and what it followed from. */
export interface DeliveredFile {
  readonly id: string
  readonly identity: string
  readonly root: string
  readonly path: string
  /** See {@link keyText}. */
  readonly key: string
  /** See {@link shortParts}. */
  readonly parts: Parts
  readonly trial: boolean
  /** See {@link picturesSum}. */
  readonly pictures: string | null
  /** Whether it has a sum by which it is known to be what was proven. */
  readonly summed: boolean
}

/** What is read of a delivered one's sheet and proof. */
type Told = Pick<DeliveredFile, 'key' | 'parts' | 'pictures' | 'summed'>

/** Parts with sums in the place of long texts: only whether they differ is asked. */
export const shortParts = (d: FrozenDeliverable): Parts =>
  Object.fromEntries(
    Object.entries(partsOf(d)).map(([name, text]) => [
      name,
      text.length > 60 ? createHash('sha256').update(text).digest('base64') : text,
    ]),
  )

/** What was delivered, oldest first; no sheet is read twice. */
export class DeliveredFiles {
  private readonly read = new Map<string, Told>()

  constructor(private readonly db: Db) {}

  async all(): Promise<DeliveredFile[]> {
    const rows = await this.db
      .selectFrom('deliverable')
      .select(['id', 'identity', 'root', 'final_path', 'trial'])
      .where('state', '=', 'done')
      .where('identity', 'is not', null)
      .orderBy('finished')
      .execute()
    for (const { id } of rows) if (!this.read.has(id)) this.read.set(id, await this.readOne(id))
    return rows.map((r) => ({
      ...{ id: r.id, identity: r.identity!, root: r.root, path: r.final_path!, trial: r.trial === 1 },
      ...this.read.get(r.id)!,
    }))
  }

  private async readOne(id: string): Promise<Told> {
    try {
      const row = await deliverableRow(this.db, id)
      const d = frozenOf(row)
      const key = keyText({ timelineId: d.timeline.id, regionId: d.region.id, outletId: d.outlet.id })
      const proof = proofOf(row)
      const summed = proof !== null && chiefSum(mainFile(proof).sums) !== null
      return { key, parts: shortParts(d), pictures: picturesSum(d), summed }
    } catch {
      // a sheet that cannot be read is said where it is shown; its file is still known by its identity
      return { key: '', parts: {}, pictures: null, summed: false }
    }
  }
}

/** Keeps a frozen deliverable at its place in a run. */
export async function keepDeliverable(db: Db, run: string, position: number, d: FrozenDeliverable): Promise<void> {
  await db
    .insertInto('deliverable')
    .values({
      id: d.id,
      run_id: run,
      position,
      state: 'waiting',
      sheet: kept.frozen.write(d),
      identity: identitySum(d),
      trial: isTrial(d.recipe) ? 1 : 0,
      title: d.title,
      region: d.region.name,
      outlet: d.outlet.name,
      outlet_id: d.outlet.id,
      timeline: d.timeline.name,
      root: d.target.root,
      target: d.target.path,
      frames: programmeFrames(d.output),
      seconds: d.seconds,
      verdict: null,
      final_path: null,
      result: null,
      problem: null,
      started: null,
      finished: null,
    })
    .execute()
}

/**
 * Ends a deliverable: steps not done are cancelled, also those in hand. Others that need a step of one that was not
 * made cannot be made either.
 */
export async function endDeliverable(
  tx: Transaction<Tables>,
  id: string,
  state: 'done' | 'failed' | 'skipped',
  problem: Problem | null,
): Promise<void> {
  const ended = await tx
    .updateTable('deliverable')
    .set({ state, finished: new Date().toISOString(), problem: problem && kept.problem.write(problem) })
    .where('id', '=', id)
    .where('state', 'in', ['waiting', 'running'])
    .returning(['run_id', 'title'])
    .executeTakeFirst()
  if (!ended) return
  if (state !== 'done') {
    await tx.updateTable('deliverable').set({ result: null, verdict: null }).where('id', '=', id).execute()
    await tx
      .updateTable('step')
      .set({ state: 'cancelled', worker: null })
      .where('deliverable_id', '=', id)
      .where('state', 'in', ['waiting', 'ready', 'claimed', 'aside'])
      .execute()
    await endDependents(tx, id, ended.title)
  }
  const open = await tx
    .selectFrom('deliverable')
    .select('id')
    .where('run_id', '=', ended.run_id)
    .where('state', 'in', ['waiting', 'running'])
    .executeTakeFirst()
  if (!open)
    await tx
      .updateTable('run')
      .set({ state: 'done', finished: new Date().toISOString() })
      .where('id', '=', ended.run_id)
      .where('state', 'in', ['running', 'paused'])
      .execute()
  await noteChange(tx, 'runs', ended.run_id)
  if (state === 'done') await noteChange(tx, 'finished', id)
}

/** What needs a step of a deliverable that was not made is not made either; what only looks whether it was goes on. */
async function endDependents(tx: Transaction<Tables>, id: string, title: string): Promise<void> {
  const steps = await tx
    .selectFrom('step_need')
    .innerJoin('step as needed', 'needed.id', 'step_need.need_id')
    .innerJoin('step as own', 'own.id', 'step_need.step_id')
    .select(['own.deliverable_id as deliverable', 'own.id as step', 'own.kind as kind', 'needed.id as need'])
    .where('needed.deliverable_id', '=', id)
    .where('needed.state', '!=', 'done')
    .where('own.deliverable_id', '!=', id)
    .where('own.state', '=', 'waiting')
    .execute()
  const looking = steps.filter((s) => stepKind(s.kind).looks)
  for (const { step, need } of looking) {
    await tx.deleteFrom('step_need').where('step_id', '=', step).where('need_id', '=', need).execute()
    await sql`update step set state = 'ready' where id = ${step} and not exists (select 1 from step_need n
      join step s on s.id = n.need_id where n.step_id = step.id and s.state <> 'done')`.execute(tx)
  }
  const dependents = new Set(steps.filter((s) => !looking.includes(s)).map((s) => s.deliverable!))
  for (const deliverable of dependents)
    await endDeliverable(tx, deliverable, 'failed', {
      code: 'step.needed',
      message: `It needs a step of “${title}”, which was not made.`,
      fix: `Look at “${title}” first, then run both again.`,
    })
}
