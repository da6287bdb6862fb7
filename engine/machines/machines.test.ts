import { once } from 'node:events'
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, symlinkSync } from 'node:fs'
import { createServer, type IncomingMessage, type Server } from 'node:http'
import path from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { JoinRequest } from '../../contract/machines'
import { keyText } from '../../core/deliverable/outlet'
import { mainFile } from '../../core/deliverable/proof'
import { scratchName } from '../../core/deliverable/names'
import { toProblem } from '../../core/problem'
import { drain, latestRun, outlet, recipe, scratchFolder, smallReel } from '../../tests/fixtures'
import { believedFor, ClaimLost, mostLost, ownDisk, reads, writes, type WorkerProfile } from '../queue/port'
import { Session } from '../session'
import { workerEdition } from '../storage/home'
import { markFolder } from '../storage/identity'
import { Roots } from '../storage/roots'
import { abilityNames, machineAbilities } from '../worker/codecs'
import { MachineLink, NoAnswer, ServerLink, serverAddress } from '../worker/joined/link'
import { joinedPorts, joinedQueue } from '../worker/joined/ports'
import { work } from '../worker/loop'
import { Machines } from './machines'

// A machine that joins: it sees the storage of another under paths of its own, and does the steps it can.

const { folder, remove } = scratchFolder()
const at = (name: string) => path.join(folder, name)
let engine: Session
let server: Server
let url = ''
/** How many answers are still to be lost on their way. */
let losing = 0
let abilities: string[] = []

async function bodyOf(request: IncomingMessage): Promise<never> {
  const parts: Buffer[] = []
  for await (const part of request) parts.push(part as Buffer)
  return JSON.parse(Buffer.concat(parts).toString() || 'null') as never
}

/** What the routes of the server do, without it. */
async function answer(method: string, id: string | undefined, body: never): Promise<unknown> {
  const { machines } = engine
  if (id === undefined) return machines.join(body)
  if (method === 'PUT') return machines.enter(id, body).then(() => ({ done: true }))
  if (method === 'DELETE') return machines.leave(id).then(() => ({ done: true }))
  const { call, input } = body as { call: string; input: unknown }
  return { value: await machines.call(id, call, input) }
}

beforeAll(async () => {
  for (const name of ['storage', 'disk']) mkdirSync(at(name))
  symlinkSync(at('storage'), at('mounted'))
  await smallReel(path.join(at('storage'), 'reel.mov'))
  const marked = (name: string) => ({ name, path: at(name), marker: markFolder(at(name)) })
  engine = await Session.open({ data: at('data'), roots: [marked('storage'), marked('disk')], workers: 0 })
  abilities = abilityNames(await machineAbilities())
  server = createServer((request, response) => {
    void (async () => {
      const id = /\/api\/machines\/([^/]+)/.exec(request.url!)?.[1]
      const given = await answer(request.method!, id, await bodyOf(request)).catch((e: unknown) => ({
        error: toProblem(e),
      }))
      if (losing-- > 0) response.destroy()
      else response.end(JSON.stringify(given))
    })()
  })
  server.listen(0, '127.0.0.1')
  await once(server, 'listening')
  url = `http://127.0.0.1:${(server.address() as { port: number }).port}`
  await engine.outlets.save(outlet('near', 'storage', recipe('viewing', { width: 320, height: 180 })))
  await engine.outlets.save(outlet('far', 'disk', recipe('sound')))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = [{ id: 'r', name: 'Fog Bell', in: 0, out: 40, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  await engine.outlets.choose(
    ['near', 'far'].map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId })),
    true,
  )
  await drain(engine)
})
afterAll(async () => {
  server.close()
  await engine.close()
  remove()
})
beforeEach(() => (losing = 0))

const request = (changes: Partial<JoinRequest> = {}): JoinRequest => ({
  ...{ name: 'Harbour', edition: workerEdition(), workers: 1, abilities },
  ...changes,
})
const tokenIn = (root: string, file: string) => readFileSync(path.join(root, file), 'utf8')

/** Joins with the storage mounted elsewhere; its link, and the worker that it brings. */
async function join(machines = engine.machines, writable = true) {
  const { id, installation, roots } = await machines.join(request())
  const { token, marker } = roots.find((r) => r.name === 'storage')!
  await machines.enter(id, { roots: [{ name: 'storage', token: tokenIn(at('mounted'), token!), writable }] })
  const storage = new Roots([{ name: 'storage', path: at('mounted'), marker }])
  const link = new MachineLink({ url, key: null }, id)
  const worker: WorkerProfile = { id: `${id}/w`, index: -1, abilities, places: null }
  return { id, installation, storage, link, worker }
}

async function startNight(): Promise<void> {
  const ready = (await engine.nights.judged()).filter((d) => d.cleared)
  const keys = ready.map(({ draft: { timeline, region, outlet } }) => ({
    ...{ timelineId: timeline.id, regionId: region.id, outletId: outlet.id },
  }))
  await engine.nights.start('Night', 0, keys.map(keyText))
}

describe('joining', () => {
  it('lets in who sees the same folder, and shows what it sees and lacks', async () => {
    const asked = request({ abilities: abilities.filter((a) => a !== 'decode:h264') })
    const { id, roots } = await engine.machines.join(asked)
    expect(engine.machines.list()).toEqual([])
    const { token } = roots.find((r) => r.name === 'storage')!
    await engine.machines.enter(id, {
      roots: [{ name: 'storage', token: tokenIn(at('mounted'), token!), writable: false }],
    })
    expect(engine.machines.list()).toMatchObject([
      { name: 'Harbour', reads: ['storage'], writes: [], unseen: ['disk'], lacks: ['decode:h264'], done: 0 },
    ])
    await engine.machines.call(id, 'beat', { memory: [[`${id}/w`, 5e8]] })
    expect(engine.machines.workerOf(`${id}/w`)).toEqual({ machine: 'Harbour', memory: 5e8 })
    expect(engine.machines.workerOf('of this machine')).toBeNull()
    engine.machines.askWorkers(0)
    await engine.machines.leave(id)
    expect(engine.machines.list()).toEqual([])
    expect(() => engine.machines.askWorkers(0)).toThrow('Nobody would work')
    engine.machines.askWorkers(1)
    for (const root of ['storage', 'disk']) {
      const left = readdirSync(at(root), { recursive: true }) as string[]
      expect(left.filter((f) => f.includes('joining-'))).toEqual([])
    }
  })
  it('refuses a copy of a folder, another edition, and who sees nothing', async () => {
    await expect(engine.machines.join(request({ edition: 'older' }))).rejects.toThrow('another edition')
    const before = await engine.machines.join(request())
    cpSync(at('storage'), at('copy'), { recursive: true })
    await engine.machines.leave(before.id)
    const { id, roots } = await engine.machines.join(request())
    const { token } = roots.find((r) => r.name === 'storage')!
    expect(existsSync(path.join(at('copy'), token!))).toBe(false)
    const seen = (token: string | null) => ({ roots: [{ name: 'storage', token, writable: true }] })
    await expect(engine.machines.enter(id, seen(''))).rejects.toThrow('not the same folder')
    await expect(engine.machines.enter(id, seen(null))).rejects.toThrow('not the same folder')
    await expect(engine.machines.enter(id, { roots: [] })).rejects.toThrow('sees none')
    await expect(engine.machines.call('nobody', 'beat', { memory: [] })).rejects.toThrow('does not take part')
    expect(engine.machines.list()).toEqual([])
  })
  it('takes addresses as a server prints them', () => {
    expect(serverAddress('http://mill:4180/?key=abc', null)).toEqual({ url: 'http://mill:4180', key: 'abc' })
    expect(serverAddress('mill:4180', 'k')).toEqual({ url: 'http://mill:4180', key: 'k' })
    expect(serverAddress('ftp://mill', null)).toBeNull()
    expect(serverAddress('http://', null)).toBeNull()
  })
})

describe('the work of a machine that joined', () => {
  it('is what it can reach, proven as any other, and in storage that both see', async () => {
    const { id, installation, storage, link, worker } = await join()
    await startNight()
    const stateOf = async (name: string) => (await latestRun(engine)).items.find((i) => i.outlet === name)!
    const ports = joinedPorts(link, storage, at('cache elsewhere'), installation)
    let ended = false
    const watching = (async () => {
      await expect.poll(async () => (await stateOf('near')).state).toBe('done')
      ended = true
    })()
    await work(ports, worker, () => ended)
    await watching
    ports.sources.close()
    // nobody was there for what it does not see
    expect((await stateOf('far')).state).toBe('waiting')
    expect(engine.machines.list()).toMatchObject([{ id, reads: [], writes: ['storage'] }])
    const { id: made } = await stateOf('near')
    const { proof, path: file } = (await engine.handover.one(made))!
    expect(proof.results.filter((r) => r.verdict === 'fail')).toEqual([])
    expect(proof.ends!.first).toBeLessThan(4)
    expect(existsSync(path.join(at('storage'), file))).toBe(true)
    expect(mainFile(proof).size).toBeGreaterThan(1000)
    for (const name of Object.values(proof.stills!))
      expect(readFileSync(path.join(at('data'), 'cache', name))[0]).toBe(0xff)
    expect(engine.machines.list()[0]!.done).toBeGreaterThan(1)
    // its pace is not that of this machine
    expect(await engine.db.selectFrom('pace').selectAll().execute()).toEqual([])
    await engine.machines.leave(id)
    await engine.runs.setWorkers((await latestRun(engine)).id, 2)
    await drain(engine)
    expect((await stateOf('far')).state).toBe('done')
    expect(existsSync(path.join(at('storage'), scratchName))).toBe(false)
  })
  it('survives answers that are lost, and says once that a step is held no more', async () => {
    const { id, storage, link, worker } = await join()
    await startNight()
    const queue = joinedQueue(link, storage)
    losing = 1
    const claim = (await queue.claim(worker))!
    expect(claim.worker).toBe(worker.id)
    const held = await engine.db.selectFrom('step').select('id').where('state', '=', 'claimed').execute()
    expect(held).toEqual([{ id: claim.step }])
    losing = 1
    await expect(queue.renew(claim, 1)).rejects.toThrow(NoAnswer)
    await queue.renew(claim, 1)
    expect([...(await queue.results(claim)).keys()]).toEqual([])
    await expect(queue.renew({ ...claim, fence: claim.fence - 1 }, 1)).rejects.toThrow(ClaimLost)
    await expect(queue.finish({ ...claim, fence: claim.fence - 1 }, null)).rejects.toThrow(ClaimLost)
    // what is not held cannot be given back, and nothing comes of it
    await queue.release({ ...claim, fence: claim.fence - 1 })
    await expect(link.once('renew', { claim: { ...claim, worker: 'another/w' }, framesDone: 1 })).rejects.toThrow(
      'another machine',
    )
    await expect(link.once('beat', { memory: [] })).resolves.toBeNull()
    await expect(link.once('fly' as never, {} as never)).rejects.toThrow('no call')
    await expect(link.once('claim', { worker: 1 } as never)).rejects.toThrow()
    // whoever leaves gives back what it has; it is not to blame
    await engine.machines.leave(id)
    const row = await engine.db.selectFrom('step').selectAll().where('id', '=', claim.step).executeTakeFirstOrThrow()
    expect(row).toMatchObject({ state: 'ready', worker: null, lost: 0, interrupted: 1 })
    expect(mostLost).toBeGreaterThan(1)
    await engine.runs.remove((await latestRun(engine)).id)
  })
  it('is given nothing whose storage it only reads, or that is away there', async () => {
    const { storage, link, worker } = await join(engine.machines, false)
    await startNight()
    expect(await joinedQueue(link, storage).claim(worker)).toBeNull()
    const whole = await join()
    const asked = { worker: whole.worker.id, anew: false }
    expect(await whole.link.once('claim', { ...asked, places: [reads('storage')] })).toBeNull()
    // it does not get what it has not shown to see, whatever it says
    expect(await whole.link.once('claim', { ...asked, places: [reads('storage'), writes('disk')] })).toBeNull()
    expect(await joinedQueue(whole.link, whole.storage).claim(whole.worker)).not.toBeNull()
    for (const { id } of [...engine.machines.list()]) await engine.machines.leave(id)
    await engine.runs.remove((await latestRun(engine)).id)
  })
  it('is tried on the machine that serves where it fails, before it fails; alone, it fails there', async () => {
    const { id, link, installation, worker } = await join()
    // the storage it sees is not whole: a file is not there that the other machine sees
    mkdirSync(at('broken'))
    const broken = new Roots([{ name: 'storage', path: at('broken'), marker: markFolder(at('broken')) }])
    const ports = joinedPorts(link, broken, at('cache elsewhere'), installation)
    const near = async () => (await latestRun(engine)).items.find((i) => i.outlet === 'near')!
    const tries = async (stopped: () => Promise<boolean>) => {
      let ended = false
      const watching = expect.poll(stopped).toBe(true)
      await Promise.all([watching.then(() => (ended = true)), work(ports, worker, () => ended)])
    }
    await startNight()
    await engine.runs.setWorkers((await latestRun(engine)).id, 2)
    const ofNights = engine.db.selectFrom('step').select('places').where('run_id', 'is not', null)
    const isTakenBack = (s: { places: string }) => s.places === JSON.stringify([ownDisk])
    await tries(async () => (await ofNights.execute()).some(isTakenBack))
    expect((await near()).state).toBe('running')
    await drain(engine)
    expect((await near()).state).toBe('done')
    await startNight()
    await tries(async () => (await near()).state === 'failed')
    expect((await near()).problem!.code).toBe('file.missing')
    await engine.machines.leave(id)
    await engine.runs.remove((await latestRun(engine)).id)
  })
  it('is forgotten when it is not heard of for as long as a claim is believed in', async () => {
    let now = 0
    const changes: string[] = []
    const changed = () => Promise.resolve(void changes.push('changed'))
    const machines = new Machines(engine.db, engine.roots, engine.queue, at('cache'), changed, () => now)
    const { id } = await join(machines)
    now = believedFor - 1
    await machines.call(id, 'beat', { memory: [] })
    now += believedFor - 1
    await machines.forgetSilent()
    expect(machines.list()).toHaveLength(1)
    now += 1
    await machines.forgetSilent()
    expect(machines.list()).toEqual([])
    expect(changes).toEqual(['changed', 'changed'])
    await expect(machines.call(id, 'beat', { memory: [] })).rejects.toThrow('does not take part')
  })
  it('asks a server that is not there in vain', async () => {
    const link = new ServerLink({ url: 'http://127.0.0.1:9', key: null })
    await expect(link.ask('POST machines', {}, request())).rejects.toThrow(NoAnswer)
  })
})
