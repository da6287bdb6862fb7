import { randomBytes, randomUUID } from 'node:crypto'
import { readdir, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import type { FoundRoots, JoinAnswer, JoinRequest, MachineInfo } from '../../contract/machines'
import { scratchName } from '../../core/deliverable/names'
import { fail, toProblem } from '../../core/problem'
import { log } from '../log'
import { believedFor, ClaimLost, reads, renewEvery, writes, type Queue } from '../queue/port'
import { workerEdition } from '../storage/home'
import type { Roots } from '../storage/roots'
import { scratchFolder } from '../storage/scratch'
import type { Db } from '../store/database'
import { installationOf } from '../store/settings'
import { abilityNames, machineAbilities } from '../worker/codecs'
import { calls, claimLost, machineUnknown, otherEdition, type CallName } from '../worker/joined/calls'
import { storedSheets } from '../worker/localports'
import type { Sheets } from '../worker/ports'
import { answers } from './answers'

/** How files begin that machines have to find. */
const tokenName = 'joining-'

/** A machine that has asked to join, or that takes part. */
interface Machine {
  readonly info: Omit<MachineInfo, 'reads' | 'writes' | 'unseen' | 'done'>
  readonly abilities: readonly string[]
  /** Files that it has to read to show that it sees a storage root, by the root's name, and what is in them. */
  readonly tokens: ReadonlyMap<string, { readonly file: string; readonly secret: string }>
  /** By the names of storage roots: whether it can write there; null until it has said. */
  found: ReadonlyMap<string, boolean> | null
  done: number
  /** Bytes of memory that each of its workers has. */
  memory: ReadonlyMap<string, number>
  heard: number
}

/**
 * Machines that take part in the work: each brings workers of its own, sees storage under paths of its own, and is
 * given the steps whose storage it sees and whose codecs it has. What they hold is looked after by the queue.
 */
export class Machines {
  private readonly machines = new Map<string, Machine>()
  private readonly sheets: Sheets
  private timer: NodeJS.Timeout | undefined

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
    cache: string,
    /** Told when a machine joins or leaves. */
    private readonly changed: () => Promise<void>,
    private readonly now: () => number = () => performance.now(),
  ) {
    this.sheets = storedSheets(db, cache)
  }

  /** Clears what an earlier session laid for machines to find, and looks after those that join from now on. */
  async start(): Promise<void> {
    const installation = await installationOf(this.db)
    for (const { path: root } of this.roots.list) {
      const folder = path.join(root, scratchName, installation)
      const left = (await readdir(folder).catch(() => [])).filter((f) => f.startsWith(tokenName))
      for (const f of left) await rm(path.join(folder, f), { force: true }).catch(() => undefined)
    }
    const forget = () =>
      void this.forgetSilent().catch((err: unknown) => log().error({ err }, 'machines could not be looked after'))
    this.timer = setInterval(forget, renewEvery).unref()
  }

  stop(): void {
    clearInterval(this.timer)
  }

  /** Machines that take part, in the order they joined. */
  list(): MachineInfo[] {
    return [...this.machines.values()].flatMap(({ info, found, done }) => {
      if (!found) return []
      const named = (writable: boolean) => [...found].filter(([, w]) => w === writable).map(([name]) => name)
      const unseen = this.roots.list.filter((r) => !found.has(r.name)).map((r) => r.name)
      return [{ ...info, writes: named(true), reads: named(false), unseen, done }]
    })
  }

  /** Refuses a night that nobody would work at: with no worker of this machine, and no other that takes part. */
  askWorkers(here: number): void {
    if (here === 0 && this.list().length === 0)
      fail(
        'run.no-workers',
        'Nobody would work at this: no other machine takes part.',
        undefined,
        'Give it workers of this machine, or let another join first.',
      )
  }

  /** The machine that a worker is of, and the memory it has; null for one of this machine. */
  workerOf(worker: string): { readonly machine: string; readonly memory: number | null } | null {
    const machine = this.machines.get(worker.slice(0, worker.indexOf('/')))
    return machine ? { machine: machine.info.name, memory: machine.memory.get(worker) ?? null } : null
  }

  /** What the machines that take part can, one or another. */
  abilities(): ReadonlySet<string> {
    return new Set([...this.machines.values()].flatMap((m) => m.abilities))
  }

  /** Takes a machine's word for what it is, and tells it which folders it has to find. */
  async join({ name, edition, workers, abilities }: JoinRequest): Promise<JoinAnswer> {
    if (edition !== workerEdition())
      fail(
        otherEdition,
        'That machine has another edition of Velvet Crane than the one it wants to join.',
        name,
        'Put the same edition on both, and build it there with ./velvet.',
      )
    const id = randomUUID()
    const installation = await installationOf(this.db)
    const tokens = new Map<string, { file: string; secret: string }>()
    for (const r of this.roots.list) {
      const token = await this.layToken(r.name, installation, id)
      if (token) tokens.set(r.name, token)
    }
    const able = abilityNames(await machineAbilities())
    const lacks = able.filter((a) => !abilities.includes(a))
    const info = { id, name, workers, lacks, since: new Date().toISOString() }
    this.machines.set(id, { info, abilities, tokens, found: null, done: 0, memory: new Map(), heard: this.now() })
    const roots = this.roots.list.map((r) => ({
      name: r.name,
      marker: r.marker ?? null,
      token: tokens.get(r.name)?.file ?? null,
    }))
    return { id, installation, roots }
  }

  /** Lets a machine take part with the storage roots that it has shown to see. */
  async enter(id: string, { roots }: FoundRoots): Promise<void> {
    const machine = this.known(id)
    await this.clearTokens(machine)
    const found = new Map<string, boolean>()
    for (const { name, token, writable } of roots) {
      this.roots.root(name)
      const wanted = machine.tokens.get(name)?.secret ?? null
      if (wanted !== null && token !== wanted)
        fail(
          'machine.other-folder',
          `What “${machine.info.name}” calls the storage root “${name}” is not the same folder as here.`,
          name,
          'Mount the very same folder there: a copy of it does not do, since files are written into it.',
        )
      // what this machine cannot write to has not been shown to be the same: it is read, and what is read is known
      found.set(name, writable && wanted !== null)
    }
    if (found.size === 0)
      fail(
        'machine.sees-nothing',
        `“${machine.info.name}” sees none of the storage roots.`,
        undefined,
        `Mount one of ${this.roots.list.map((r) => `“${r.name}”`).join(', ')} there, and name its folder.`,
      )
    machine.found = found
    log().info({ machine: machine.info.name, id, roots: [...found.keys()] }, 'a machine joined')
    await this.changed()
  }

  /** A machine leaves: what its workers hold goes to others at once. */
  async leave(id: string): Promise<void> {
    const machine = this.known(id)
    this.machines.delete(id)
    await this.clearTokens(machine)
    await this.queue.reclaim(`${id}/`)
    log().info({ machine: machine.info.name, id }, 'a machine left')
    await this.changed()
  }

  /** Answers a call of a worker of a machine that takes part. */
  async call(id: string, name: string, input: unknown): Promise<unknown> {
    const machine = this.known(id)
    if (!Object.hasOwn(calls, name)) fail('request.unknown', `There is no call “${name}”.`, name)
    const call = name as CallName
    const { found, abilities } = machine
    machine.heard = this.now()
    const places = [...(found ?? [])].flatMap(([root, writable]) => [reads(root), ...(writable ? [writes(root)] : [])])
    const answering = {
      db: this.db,
      queue: this.queue,
      sheets: this.sheets,
      worker: (worker: string, there: readonly string[]) => ({
        ...{ id: worker, index: -1, abilities },
        places: places.filter((p) => there.includes(p)),
      }),
      done: () => void machine.done++,
      takes: (memory: readonly (readonly [string, number])[]) => void (machine.memory = new Map(memory)),
    }
    const asked = calls[call].input.parse(input) as never
    if (!ofMachine(id, asked)) fail('request.invalid', 'A worker is named that is of another machine.', id)
    try {
      return (await answers[call](answering, asked)) as unknown
    } catch (e) {
      if (e instanceof ClaimLost) return fail(claimLost, 'This step is not held any more.')
      throw e
    }
  }

  private known(id: string): Machine {
    return (
      this.machines.get(id) ??
      fail(machineUnknown, 'This machine does not take part.', id, 'It joins again by itself, or with ./velvet join.')
    )
  }

  /** Forgets machines that have not been heard of for as long as a claim is believed in. */
  async forgetSilent(): Promise<void> {
    for (const [id, machine] of this.machines) {
      if (this.now() - machine.heard < believedFor) continue
      this.machines.delete(id)
      await this.clearTokens(machine)
      log().warn({ machine: machine.info.name, id }, 'a machine is not heard of any more')
      if (machine.found) await this.changed()
    }
  }

  /** Writes a file that only who sees the same folder can read; null where nothing can be written. */
  private async layToken(root: string, installation: string, id: string) {
    const secret = randomBytes(18).toString('base64url')
    for (let tries = 1; ; tries++)
      try {
        const folder = await scratchFolder(this.roots, root, installation)
        const full = path.join(folder, `${tokenName}${id}`)
        await writeFile(full, secret, { flag: 'wx' })
        return { file: path.relative(this.roots.root(root).path, full).split(path.sep).join('/'), secret }
      } catch (e) {
        // a worker that is just done may have removed the folder, which was empty
        if ((e as NodeJS.ErrnoException).code === 'ENOENT' && tries < 10) continue
        log().info({ problem: toProblem(e, root) }, 'a storage root cannot be shown to a machine that joins')
        return null
      }
  }

  private async clearTokens({ tokens }: Machine): Promise<void> {
    for (const [root, { file }] of tokens)
      await rm(path.join(this.roots.root(root).path, file), { force: true }).catch(() => undefined)
  }
}

/** Whether a call is about workers of the machine that makes it. */
function ofMachine(id: string, { worker, claim }: { worker?: string; claim?: { worker: string } }): boolean {
  return [worker, claim?.worker].every((w) => w === undefined || w.startsWith(`${id}/`))
}
