import { createHash } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import { identityOf } from '../../../core/deliverable/identity'
import { kept } from '../stored'

/**
 * Identities are of the settings that a kind of recipe has, no longer of all there are: those of what was delivered are
 * worked out anew. Sound of 16 bits is another file now, by its dither, and is not known again.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  const rows = await sql<{ id: string }>`select id from deliverable where identity is not null`.execute(db)
  for (const { id } of rows.rows) {
    const found = await sql<{ sheet: string }>`select sheet from deliverable where id = ${id}`.execute(db)
    const frozen = kept.frozen.read(found.rows[0]!.sheet, `deliverable ${id}`)
    const sum = createHash('sha256').update(identityOf(frozen)).digest('hex')
    const other = frozen.recipe.kind === 'sound' && frozen.recipe.soundDepth === 16
    await sql`update deliverable set identity = ${other ? null : sum} where id = ${id}`.execute(db)
  }
}
