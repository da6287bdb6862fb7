import { setPriority } from 'node:os'
import { log, logInto } from '../log'
import { renewEvery } from '../queue/port'
import { dataFolders } from '../storage/home'
import { Roots } from '../storage/roots'
import { openDatabase } from '../store/database'
import { abilityNames, machineAbilities } from './codecs'
import { MachineLink } from './joined/link'
import { joinedPorts } from './joined/ports'
import { localPorts } from './localports'
import { work } from './loop'
import type { WorkerNews, WorkerStart } from './messages'
import { servePictures } from './pictures'

const start = JSON.parse(process.env.VELVET_WORKER ?? 'null') as WorkerStart | null
if (start) {
  // a worker whose parent is gone has nobody to work for; it may have gone while this process was still loading. An
  // orderly exit waits for what codecs have in hand, now and then for ever: what is half done is done again anyway
  const end = () => void process.kill(process.pid, 'SIGKILL')
  process.on('disconnect', end)
  if (!process.connected) end()
  logInto(start.data)
  process.on('uncaughtException', (err) => {
    log().fatal({ err, worker: start.id }, 'a worker process broke')
    tell({ broke: err.message })
    process.exit(1)
  })
  if (start.mode === 'work') await runWork(start).catch((err: Error) => process.emit('uncaughtException', err))
  else servePictures(new Roots(start.roots))
}

function tell(news: WorkerNews): void {
  // a parent that is gone takes this process with it in a moment
  if (process.connected) process.send?.(news, () => undefined)
}

async function runWork(s: WorkerStart): Promise<void> {
  try {
    setPriority(10)
  } catch {
    /* some systems do not allow it; work goes on at the usual priority */
  }
  const folders = dataFolders(s.data)
  const storage = new Roots(s.roots)
  const abilities = abilityNames(await machineAbilities())
  const { joined } = s
  const ports = joined
    ? joinedPorts(new MachineLink(joined.server, joined.machine), storage, folders.cache, joined.installation)
    : await localPorts(await openDatabase(folders.database), storage, folders.cache)
  tell({ ready: true })
  setInterval(() => tell({ memory: process.memoryUsage.rss() }), renewEvery).unref()
  await work(ports, { id: s.id, index: s.index, abilities, places: null }, () => false)
}
