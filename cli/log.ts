import { existsSync } from 'node:fs'
import path from 'node:path'
import { defineCommand } from 'citty'
import type { LogEntry } from '../contract/log'
import { fail } from '../core/problem'
import { logFolder } from '../engine/log'
import { lastEntries } from '../engine/logbook'
import { home } from '../engine/storage/home'
import { attempt } from './attempt'

export const logCommand = defineCommand({
  meta: { name: 'log', description: 'What went wrong: the last entries of a server’s log, the newest last.' },
  args: {
    data: { type: 'string', description: 'data folder of the server; that of this project when left out' },
    lines: { type: 'string', description: 'how many entries', default: '50' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const data = path.resolve(args.data ?? path.join(home(), '.velvet', 'data'))
      const most = Number(args.lines)
      if (!Number.isInteger(most) || most < 1)
        fail('usage', `“${args.lines}” is no number of entries.`, '--lines', 'Give a whole number.')
      if (!existsSync(data))
        fail('file.missing', 'There is no such data folder.', data, 'Give that of the server with --data.')
      const entries = lastEntries(data, most).reverse()
      if (args.json) process.stdout.write(`${JSON.stringify(entries, null, 2)}\n`)
      else if (entries.length === 0) process.stdout.write(`Nothing went wrong so far (${logFolder(data)}).\n`)
      else process.stdout.write(entries.map(entryText).join(''))
      return 0
    }),
})

/** An entry on lines of its own: when, how bad, what, then what it is about, and the stack. */
function entryText({ time, level, text, about, stack }: LogEntry): string {
  const lines = [`${time.replace('T', ' ').replace(/\.\d+Z$/, ' UTC')}  ${level.padEnd(7)}  ${text}`]
  if (about.length) lines.push(`    ${about.map(([name, value]) => `${name} ${value}`).join(', ')}`)
  if (stack) lines.push(...stack.split('\n').map((l) => `    ${l.trim()}`))
  return `${lines.join('\n')}\n`
}
