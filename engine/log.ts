import { appendFileSync, mkdirSync, readdirSync, rmSync } from 'node:fs'
import path from 'node:path'
import pino, { type Logger } from 'pino'

let logger: Logger | undefined

/** How many days of the log are kept. */
const keptDays = 30

/** The folder of a data folder's log: one file a day, `velvet-2026-11-26.log`, a JSON object a line. */
export function logFolder(data: string): string {
  return path.join(data, 'log')
}

const dayFile = /^velvet-(\d{4}-\d\d-\d\d)\.log$/

/** The log's files of a data folder, the newest first. */
export function logFiles(data: string): string[] {
  try {
    const days = readdirSync(logFolder(data)).filter((f) => dayFile.test(f))
    return days.sort((a, b) => b.localeCompare(a)).map((f) => path.join(logFolder(data), f))
  } catch {
    return []
  }
}

/** Lets this process log into its data folder from now on; several processes may. */
export function logInto(data: string): void {
  const folder = logFolder(data)
  mkdirSync(folder, { recursive: true })
  for (const old of logFiles(data).slice(keptDays)) rmSync(old, { force: true })
  // lines are few, and those of a process that breaks matter most: each is there before the next thing happens
  const write = (line: string) => {
    try {
      appendFileSync(path.join(folder, `velvet-${new Date().toISOString().slice(0, 10)}.log`), line)
    } catch {
      /* a full disk must not take the process down that would say so */
    }
  }
  logger = pino({ base: { pid: process.pid }, timestamp: pino.stdTimeFunctions.isoTime }, { write })
}

/** The log of this process; silent until it is told where to. */
export function log(): Logger {
  return (logger ??= pino({ level: 'silent' }))
}
