import { closeSync, fstatSync, openSync, readSync } from 'node:fs'
import type { LogEntry } from '../contract/log'
import { logFiles } from './log'

/** Bytes that are read of the end of a file at most. */
const tail = 1 << 20

const levels: Readonly<Record<number, LogEntry['level']>> = { 30: 'info', 40: 'warning', 50: 'error', 60: 'fatal' }
/** Fields that are told in other ways. */
const own = new Set(['level', 'time', 'pid', 'msg', 'err', 'problem'])

/** The last entries of a data folder's log, the newest first. */
export function lastEntries(data: string, most: number): LogEntry[] {
  const out: LogEntry[] = []
  for (const file of logFiles(data)) {
    for (const line of endOf(file).split('\n').reverse()) {
      const entry = entryOf(line)
      if (entry) out.push(entry)
      if (out.length >= most) return out
    }
  }
  return out
}

function endOf(file: string): string {
  const fd = openSync(file, 'r')
  try {
    const { size } = fstatSync(fd)
    const bytes = Buffer.alloc(Math.min(tail, size))
    readSync(fd, bytes, 0, bytes.length, size - bytes.length)
    return bytes.toString('utf8')
  } finally {
    closeSync(fd)
  }
}

/** A line of the log as people read it; null for one that breaks off or begins in the middle. */
export function entryOf(line: string): LogEntry | null {
  let fields: Record<string, unknown>
  try {
    fields = JSON.parse(line) as Record<string, unknown>
  } catch {
    return null
  }
  const err = fields.err as { message?: string; stack?: string } | undefined
  const problem = fields.problem as { message?: string; where?: string } | undefined
  const why = [err?.message, problem?.message].filter((t) => t && t !== fields.msg)
  return {
    time: typeof fields.time === 'string' ? fields.time : '',
    level: levels[fields.level as number] ?? 'info',
    text: [fields.msg, ...why].join(': '),
    about: Object.entries({ ...fields, where: problem?.where })
      .filter(([k, v]) => !own.has(k) && v !== null && v !== undefined)
      .map(([k, v]) => [k, typeof v === 'string' ? v : JSON.stringify(v)] as const),
    stack: err?.stack ?? null,
  }
}
