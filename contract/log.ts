/** An entry of the log as people read it. */
export interface LogEntry {
  /** ISO 8601, UTC. */
  readonly time: string
  readonly level: 'info' | 'warning' | 'error' | 'fatal'
  readonly text: string
  /** What it is about: deliverable, step, worker, route. */
  readonly about: readonly (readonly [name: string, value: string])[]
  readonly stack: string | null
}
