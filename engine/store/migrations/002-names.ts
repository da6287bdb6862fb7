import { sql, type Kysely } from 'kysely'

/** Words of the trade in stored values: `stamp` becomes `fingerprint`, `papers` becomes `metadata`. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table timeline rename column stamp to fingerprint`.execute(db)
  for (const [table, key, column] of columns) {
    const rows = await sql<{ key: string; value: string | null }>`
      select ${sql.ref(key)} as key, ${sql.ref(column)} as value from ${sql.table(table)}`.execute(db)
    for (const row of rows.rows) {
      if (row.value === null || !/"(stamp|papers)"/.test(row.value)) continue
      await sql`update ${sql.table(table)} set ${sql.ref(column)} = ${JSON.stringify(renamed(JSON.parse(row.value)))}
        where ${sql.ref(key)} = ${row.key}`.execute(db)
    }
  }
}

const columns = [
  ['timeline', 'id', 'split'],
  ['timeline', 'id', 'linking'],
  ['item', 'id', 'sheet'],
  ['item', 'id', 'result'],
  ['fact', 'key', 'value'],
  ['setting', 'key', 'value'],
] as const

/** A stored value with its fields, and the measures its rules ask about, called by their present names. */
export function renamed(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(renamed)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value).map(([key, inner]) => [
      { stamp: 'fingerprint', papers: 'metadata' }[key] ?? key,
      key === 'measure' && inner === 'papers' ? 'metadata' : renamed(inner),
    ]),
  )
}
