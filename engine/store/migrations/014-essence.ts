import { createHash } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import { identityOf } from '../../../core/deliverable/identity'
import { kept } from '../stored'

/** What is seen and heard in a region is part of its identity now, in the place of where it lies. */
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
    return createHash('sha256').update(identityOf(frozen)).digest('hex')
  } catch {
    // a sheet that cannot be read is said where it is shown
    return null
  }
}
