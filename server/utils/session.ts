import path from 'node:path'
import { Session } from '../../engine/session'

let opened: Promise<Session> | undefined

/** The session of this server process, opened once from what the launcher says. */
export function openedSession(): Promise<Session> {
  opened ??= Session.open({
    watch: true,
    data: path.resolve(process.env.VELVET_DATA ?? '.velvet/data'),
    ...(process.env.VELVET_WAIT ? { patience: Number(process.env.VELVET_WAIT) } : {}),
    roots: JSON.parse(process.env.VELVET_STORAGE ?? '["."]') as string[],
  })
  return opened
}
