import { constants } from 'node:fs'
import { access, readFile } from 'node:fs/promises'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import type { FoundRoots, SharedRoot } from '../../contract/machines'
import { fail, ProblemError } from '../../core/problem'
import { plural } from '../../core/text'
import { renewEvery } from '../queue/port'
import { workerEdition } from '../storage/home'
import { markerOf } from '../storage/identity'
import { Roots, type Root } from '../storage/roots'
import { abilityNames, machineAbilities } from '../worker/codecs'
import { otherEdition } from '../worker/joined/calls'
import { isUnknown, MachineLink, NoAnswer, ServerLink, type ServerAddress } from '../worker/joined/link'
import { joinedQueue } from '../worker/joined/ports'
import { WorkerPool } from '../worker/pool'

/** How this machine takes part in the work of another. */
export interface Joining {
  readonly server: ServerAddress
  /** What it is called there. */
  readonly name: string
  readonly workers: number
  readonly folders: readonly JoinedFolder[]
  /** Where it keeps its log. */
  readonly data: string
  /** Told what happens, a line each. */
  readonly say: (line: string) => void
}

/** A folder of this machine; `root` names the storage root it is where the folder bears no marker. */
export interface JoinedFolder {
  readonly path: string
  readonly root: string | null
}

/** How long after a server was not there it is tried again, ms. */
const again = 3_000

/**
 * Takes part until told to stop. What keeps this machine out at first is a problem; later it is said, and tried again:
 * a server that goes is waited for, and so is storage that is just away.
 */
export async function takePart(j: Joining, stopping: AbortSignal): Promise<void> {
  let said = ''
  for (let joined = false; !stopping.aborted; joined = true) {
    const machine = await enter(j).catch(async (e: unknown) => {
      const problem = e instanceof NoAnswer ? silent(j.server) : e
      if (!joined || !(problem instanceof ProblemError) || problem.problem.code === otherEdition) throw problem
      if (problem.message !== said) j.say(`not taking part just now: ${problem.message}`)
      said = problem.message
      await pause(again, stopping)
      return null
    })
    if (machine) {
      said = ''
      await serve(j, machine, stopping)
    }
  }
}

interface Entered {
  readonly link: MachineLink
  readonly installation: string
  readonly roots: readonly Root[]
}

/** Joins, finds the storage roots below the folders of this machine, and says so. */
async function enter(j: Joining): Promise<Entered> {
  const link = new ServerLink(j.server)
  const abilities = abilityNames(await machineAbilities())
  const { name, workers } = j
  const { id, installation, roots } = await link.ask(
    'POST machines',
    {},
    {
      ...{ name, workers, abilities },
      edition: workerEdition(),
    },
  )
  const found = j.folders.map((f) => ({ shared: rootOf(f, roots), folder: f.path }))
  const shown: FoundRoots['roots'] = []
  for (const { shared, folder } of found) shown.push(await lookAt(shared, folder))
  await link.ask('PUT machines/:id', { id }, { roots: shown })
  const unseen = roots.filter((r) => !shown.some((s) => s.name === r.name)).map((r) => r.name)
  const readOnly = shown.filter((s) => !s.writable).map((s) => s.name)
  j.say(`taking part as “${name}” with ${plural(workers, 'worker')}: ${shown.map((s) => s.name).join(', ')}`)
  if (readOnly.length > 0) j.say(`can only be read here: ${readOnly.join(', ')}`)
  if (unseen.length > 0) j.say(`not seen here, and what needs it is left to others: ${unseen.join(', ')}`)
  return {
    link: new MachineLink(j.server, id),
    installation,
    roots: found.map(({ shared, folder }) => ({ name: shared.name, path: folder, marker: shared.marker })),
  }
}

/** The storage root that a folder of this machine is. */
function rootOf({ path: folder, root }: JoinedFolder, roots: readonly SharedRoot[]): SharedRoot {
  const marker = markerOf(folder)
  const names = roots.map((r) => r.name).join(', ')
  const found = root === null ? roots.find((r) => r.marker !== null && r.marker === marker) : byName(root, roots)
  if (!found)
    return fail(
      'machine.no-root',
      root === null ? 'This folder is none of the storage roots there.' : `There is no storage root “${root}” there.`,
      folder,
      `Give the folders where these are mounted here: ${names}. One that bears no marker is given as NAME=FOLDER.`,
    )
  if (found.marker !== marker)
    return fail(
      'machine.other-folder',
      `This folder is not the storage root “${found.name}”: it bears another marker.`,
      folder,
      'Give the folder where that one is mounted here.',
    )
  return found
}

const byName = (name: string, roots: readonly SharedRoot[]) => roots.find((r) => r.name === name)

/** What is in the file that shows that a folder is the same one as there, and whether it can be written to. */
async function lookAt({ name, token }: SharedRoot, folder: string) {
  const text = token === null ? null : await readFile(path.join(folder, token), 'utf8').catch(() => '')
  const writable = await access(folder, constants.W_OK).then(
    () => true,
    () => false,
  )
  // where the other one cannot write, nothing shows that it is the same folder
  return { name, token: text, writable: writable && token !== null }
}

/** Runs workers for as long as the server knows this machine and nobody stops it. */
async function serve(j: Joining, { link, installation, roots }: Entered, stopping: AbortSignal): Promise<void> {
  const queue = joinedQueue(link, new Roots(roots))
  const pool = new WorkerPool(queue, j.data, roots, () => undefined, {
    ...{ server: j.server, machine: link.machine, installation },
  })
  pool.start(j.workers)
  let away = false
  let known = true
  while (!stopping.aborted && known) {
    await pause(renewEvery, stopping)
    try {
      await link.once('beat', { memory: [...pool.memory] })
      if (away) j.say('the server answers again')
      away = false
    } catch (e) {
      known = !isUnknown(e)
      if (known && !away) j.say('the server does not answer; it is asked again every few seconds')
      if (!known) j.say('the server does not know this machine any more; joining again')
      away = true
    }
  }
  await pool.stop()
  if (known) await link.leave().catch(() => undefined)
}

const pause = (ms: number, stopping: AbortSignal) => sleep(ms, undefined, { signal: stopping }).catch(() => undefined)

const silent = ({ url }: ServerAddress) =>
  new ProblemError({
    code: 'server.silent',
    message: 'No Velvet Crane answers there.',
    where: url,
    fix: 'Check the address; a server that others are to reach is started with --host.',
  })
