import { sql } from 'kysely'

/**
 * What has changed: a counter for each topic, and how far background work and the running run are. Asked every second.
 */
export default route(async (session) => {
  const topics = await sql<{ topic: string; n: number }>`select topic, max(id) as n from change group by topic`.execute(
    session.db,
  )
  const background = await sql<{
    key: string
    kind: string
    done: number
    total: number
    state: string
    problem: string | null
  }>`select key, kind, frames_done as done, frames_total as total, state, problem from step where run_id is null and state in ('ready', 'claimed', 'failed')`.execute(
    session.db,
  )
  const running = await session.db
    .selectFrom('run')
    .select('id')
    .where('state', 'in', ['running', 'paused'])
    .orderBy('created', 'desc')
    .executeTakeFirst()
  return {
    topics: Object.fromEntries(topics.rows.map((t) => [t.topic, t.n])),
    background: background.rows,
    run: running ? await session.runs.view(running.id) : null,
  }
})
