import { sql } from 'kysely'

/**
 * What has changed: a counter for each topic, and how far background work and the running run are. Asked every second.
 */
export default route(async (engine) => {
  const topics = await engine.db.selectFrom('pulse').selectAll().execute()
  const background = await sql<{
    key: string
    kind: string
    done: number
    total: number
    state: string
    problem: string | null
  }>`select key, kind, frames_done as done, frames_total as total, state, problem from task where run_id is null and state in ('ready', 'leased', 'failed')`.execute(
    engine.db,
  )
  const running = await engine.db
    .selectFrom('run')
    .select('id')
    .where('state', 'in', ['running', 'paused'])
    .orderBy('created', 'desc')
    .executeTakeFirst()
  return {
    topics: Object.fromEntries(topics.map((t) => [t.topic, t.n])),
    background: background.rows,
    run: running ? await engine.runs.view(running.id) : null,
  }
})
