import { createHash } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import { identityOf } from '../../../core/deliverable/identity'
import { kept } from '../stored'

/**
 * Settings that are what every recipe was before it had them are no longer part of an identity: those of what was
 * delivered are worked out anew. A viewing copy that was made before scalers could be chosen was scaled by another one,
 * and is not known again.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  const rows = await sql<{ id: string }>`select id from deliverable where identity is not null`.execute(db)
  for (const { id } of rows.rows) {
    const found = await sql<{ sheet: string }>`select sheet from deliverable where id = ${id}`.execute(db)
    await sql`update deliverable set identity = ${sumOf(id, found.rows[0]!.sheet)} where id = ${id}`.execute(db)
  }
}

function sumOf(id: string, sheet: string): string | null {
  try {
    const frozen = kept.frozen.read(sheet, `deliverable ${id}`)
    if (frozen.recipe.kind === 'viewing' && !/"scaler":/.test(sheet)) return null
    return createHash('sha256').update(identityOf(frozen)).digest('hex')
  } catch {
    // a sheet that cannot be read is said where it is shown
    return null
  }
}
