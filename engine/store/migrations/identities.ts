import { createHash } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import { identityOf } from '../../../core/deliverable/identity'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import { kept } from '../stored'

/** Works out anew what every deliverable is known by, but for those that are not to be known again. */
export async function identifyAnew(
  db: Kysely<unknown>,
  known: (frozen: FrozenDeliverable, sheet: string) => boolean = () => true,
): Promise<void> {
  const rows = await sql<{ id: string }>`select id from deliverable where identity is not null`.execute(db)
  for (const { id } of rows.rows) {
    const found = await sql<{ sheet: string }>`select sheet from deliverable where id = ${id}`.execute(db)
    await sql`update deliverable set identity = ${sumOf(id, found.rows[0]!.sheet, known)} where id = ${id}`.execute(db)
  }
}

function sumOf(id: string, sheet: string, known: (frozen: FrozenDeliverable, sheet: string) => boolean): string | null {
  try {
    const frozen = kept.frozen.read(sheet, `deliverable ${id}`)
    return known(frozen, sheet) ? createHash('sha256').update(identityOf(frozen)).digest('hex') : null
  } catch {
    // a sheet that cannot be read is said where it is shown
    return null
  }
}
