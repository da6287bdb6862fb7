import { createHash } from 'node:crypto'
import { existsSync, statSync } from 'node:fs'
import { availableParallelism, hostname } from 'node:os'
import path from 'node:path'
import { defineCommand } from 'citty'
import { mostJoined } from '../contract/machines'
import { fail } from '../core/problem'
import { logInto } from '../engine/log'
import { takePart, type JoinedFolder } from '../engine/machines/joining'
import { serverAddress } from '../engine/worker/joined/link'
import { every } from './arguments'
import { attempt } from './attempt'
import { stateFolder } from './takeup'

export const joinCommand = defineCommand({
  meta: {
    name: 'join',
    description: 'Takes part in the work of a Velvet Crane on another machine, until it is ended.',
  },
  args: {
    server: { type: 'positional', description: 'its address, as it prints it: with its access key', required: true },
    storage: {
      type: 'string',
      description: 'folder where a storage root of it is mounted here; NAME=FOLDER for one without a marker; several',
    },
    key: { type: 'string', description: 'its access key, where the address does not have it' },
    workers: { type: 'string', description: 'worker processes; half the cores when left out' },
    name: { type: 'string', description: 'what this machine is called there; its host name when left out' },
    data: { type: 'string', description: 'folder for its log' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const server = serverAddress(args.server, args.key ?? process.env.VELVET_KEY ?? null)
      if (!server)
        fail('usage', `“${args.server}” is no address of a server.`, undefined, 'Give it as http://name:4180.')
      const folders = every('--storage').map(folderOf)
      if (folders.length === 0)
        fail(
          'usage',
          'A machine that joins has to see storage of the server.',
          '--storage',
          'Give the folders where its storage roots are mounted here.',
        )
      const workers = Number(args.workers ?? Math.max(1, Math.floor(availableParallelism() / 2)))
      if (!Number.isInteger(workers) || workers < 1 || workers > mostJoined)
        fail('usage', `“${args.workers}” is no number of workers.`, '--workers', 'Give a whole number from 1.')
      const data = path.resolve(args.data ?? dataOf(server.url))
      logInto(data)
      const stopping = new AbortController()
      for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => stopping.abort())
      const say = (line: string) => void process.stderr.write(`velvet: ${line}\n`)
      const name = args.name?.trim() || hostname()
      await takePart({ ...{ server, name, workers, folders, data, say } }, stopping.signal)
      say('left; what was in hand goes to others')
      return 0
    }),
})

/** A folder, or the name of a storage root and its folder here. */
function folderOf(typed: string): JoinedFolder {
  const isFolder = (f: string) => existsSync(f) && statSync(f).isDirectory()
  if (isFolder(typed)) return { path: path.resolve(typed), root: null }
  const m = /^([^=]+)=(.+)$/s.exec(typed)
  if (m && isFolder(m[2]!)) return { path: path.resolve(m[2]!), root: m[1]! }
  return fail(
    'file.missing',
    'There is no such folder.',
    m?.[2] ?? typed,
    'Mount the storage here, or correct the path.',
  )
}

/** Where the log of what is done for a server is kept. */
function dataOf(url: string): string {
  return stateFolder('joined', createHash('sha256').update(url).digest('hex').slice(0, 16))
}
