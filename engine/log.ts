import path from 'node:path'
import pino, { type Logger } from 'pino'

let logger: Logger | undefined

/** Where the log of a data folder is. */
export function logFile(data: string): string {
  return path.join(data, 'velvet.log')
}

/** Lets this process log into its data folder from now on; several processes may. */
export function logInto(data: string): void {
  logger = pino({ base: { pid: process.pid } }, pino.destination({ dest: logFile(data), append: true, sync: true }))
}

/** The log of this process; silent until it is told where to. */
export function log(): Logger {
  return (logger ??= pino({ level: 'silent' }))
}
