import { LRUCache } from 'lru-cache'
import { readTable } from '../../../core/picture/table/registry'
import type { LookUpTable } from '../../../core/picture/table/table'
import { reads, writes, type Claim, type WorkQueue } from '../../queue/port'
import type { Roots } from '../../storage/roots'
import { machineCodecs } from '../codecs'
import type { Facts } from '../facts'
import type { Sheets, WorkerPorts } from '../ports'
import { SourceCache } from '../sources/sourcecache'
import type { ClaimRef } from './calls'
import type { MachineLink } from './link'

const refOf = ({ step, fence, worker }: Claim): ClaimRef => ({ step, fence, worker })

/** What only steps of the machine that serves do; a worker of another is never given one. */
const notHere = () => Promise.reject(new Error('This is for the machine that serves.'))

/** The queue of the machine that serves. */
export function joinedQueue(link: MachineLink, storage: Roots): WorkQueue {
  const done = () => undefined
  // what is away here may be there elsewhere: others are left what needs it
  const places = () =>
    storage.list.filter((r) => storage.away(r.name) === null).flatMap((r) => [reads(r.name), writes(r.name)])
  return {
    offer: notHere,
    claim: ({ id }) => link.call('claim', (tries) => ({ worker: id, places: places(), anew: tries > 0 })),
    companions: (claim, { id }) => link.call('companions', { worker: id, places: places(), claim: refOf(claim) }),
    // a timer asks again
    renew: (claim, framesDone) => link.once('renew', { claim: refOf(claim), framesDone }).then(done),
    results: async (claim) => new Map(await link.call('results', { claim: refOf(claim) })),
    finish: (claim, result) => link.call('finish', { claim: refOf(claim), result: result ?? null }).then(done),
    fail: (claim, problem) => link.call('fail', { claim: refOf(claim), problem }).then(done),
    release: (claim) => link.call('release', { claim: refOf(claim) }).then(done),
    setAside: (claim, roots, problem) =>
      link.call('setAside', { claim: refOf(claim), roots: [...roots], problem }).then(done),
    // where that cannot be said, its claims run out
    abandon: (worker) => link.once('abandon', { worker }).then(done),
  }
}

function joinedSheets(link: MachineLink): Sheets {
  return {
    frozen: (deliverable) => link.call('frozen', { deliverable }),
    noted: (deliverable) => link.call('noted', { deliverable }),
    note: (claim, _item, path, proof) => link.call('note', { claim: refOf(claim), path, proof }).then(() => undefined),
    still: (claim, end, jpeg) =>
      link.call('still', { claim: refOf(claim), end, jpeg: Buffer.from(jpeg).toString('base64') }),
    siblings: (run, outlet) => link.call('siblings', { run, outlet }),
  }
}

/** A worker's ports onto another machine's queue and sheets, and onto storage that both see. */
export function joinedPorts(link: MachineLink, storage: Roots, cache: string, installation: string): WorkerPorts {
  const codecs = machineCodecs()
  const tables = new LRUCache<string, LookUpTable>({ max: 4 })
  const facts: Facts = {
    read: async (keys) => new Map(await link.call('facts', { keys: [...keys] })),
    write: notHere,
  }
  return {
    queue: joinedQueue(link, storage),
    takenBack: (claim, problem) => link.call('takeBack', { claim: refOf(claim), problem }),
    facts,
    sheets: joinedSheets(link),
    table: async (id) => {
      const table = tables.get(id) ?? readTable(await link.call('table', { id }), id)
      tables.set(id, table)
      return table
    },
    storage,
    cache,
    installation,
    codecs,
    sources: new SourceCache(storage, codecs, facts),
  }
}
