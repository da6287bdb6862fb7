import { randomBytes } from 'node:crypto'
import { setPriority } from 'node:os'
import type { Picture } from '../../core/picture/picture'
import { toProblem } from '../../core/problem'
import { machineCodecs } from './codecs'
import { openDatabase } from '../store/database'
import { dataFolders } from '../storage/home'
import { Roots, type Root } from '../storage/roots'
import { openSource, type OpenSource, type SourcePlace } from './source'
import { jpegOf } from './stills'
import { work } from './loop'

/** How a worker process is started: the engine puts this into VELVET_WORKER. */
export interface WorkerStart {
  readonly mode: 'work' | 'pictures'
  readonly data: string
  readonly roots: readonly Root[]
  readonly index: number
}

/** A request to a pictures process, over the channel to its parent. */
export interface PictureRequest {
  readonly id: number
  readonly place: SourcePlace
  readonly frame: number
  readonly width: number
}
export type PictureAnswer =
  | { readonly id: number; readonly jpeg: Uint8Array }
  | { readonly id: number; readonly problem: ReturnType<typeof toProblem> }

const start = JSON.parse(process.env.VELVET_WORKER ?? 'null') as WorkerStart | null
if (start) {
  // a worker whose parent is gone has nobody to work for
  process.on('disconnect', () => process.exit(0))
  if (start.mode === 'work') await runWork(start)
  else runPictures(start)
}

async function runWork(s: WorkerStart): Promise<void> {
  try {
    setPriority(10)
  } catch {
    /* some systems do not allow it; work goes on at the usual priority */
  }
  const folders = dataFolders(s.data)
  const db = await openDatabase(folders.database)
  await work(
    { db, roots: new Roots(s.roots), folders },
    `${process.pid}-${randomBytes(4).toString('hex')}`,
    s.index,
    () => false,
  )
}

/** Serves exact pictures on demand; keeps the last few sources open. */
function runPictures(s: WorkerStart): void {
  const roots = new Roots(s.roots)
  const open = new Map<string, Promise<OpenSource>>()
  const near = new Map<string, Picture>()
  let lastFrame = -1
  let chain = Promise.resolve()
  process.on('message', (r: PictureRequest) => {
    chain = chain.then(async () => {
      const key = JSON.stringify(r.place)
      try {
        let entry = open.get(key)
        if (!entry) {
          entry = openSource(roots, machineCodecs(), r.place)
          open.set(key, entry)
          if (open.size > 4) {
            const [oldest, value] = open.entries().next().value!
            open.delete(oldest)
            value.then((v) => v.close()).catch(() => undefined)
          }
        }
        const source = await entry
        const known = near.get(`${key}/${r.frame}`)
        if (known) {
          process.send!({ id: r.id, jpeg: await jpegOf(known, r.width) } satisfies PictureAnswer)
          return
        }
        // coded pictures lean on those before them: a few more on the way the operator goes cost little and are kept
        const more = source.info.video[0]!.webCodec === null ? 0 : 7
        const back = r.frame < lastFrame
        lastFrame = r.frame
        const range = {
          in: Math.max(0, r.frame - (back ? more : 0)),
          out: Math.min(source.info.video[0]!.frames, r.frame + 1 + (back ? 0 : more)),
        }
        // what was cut out for this frame alone knows nothing of those around it
        const asked = r.place.assembly ? { in: r.frame, out: r.frame + 1 } : range
        for await (const { frame, picture } of source.pictures().read(asked)) {
          if (more) near.set(`${key}/${frame}`, picture)
          if (frame === r.frame)
            process.send!({ id: r.id, jpeg: await jpegOf(picture, r.width) } satisfies PictureAnswer)
        }
        while (near.size > 32) near.delete(near.keys().next().value!)
      } catch (e) {
        open.delete(key)
        process.send!({ id: r.id, problem: toProblem(e) } satisfies PictureAnswer)
      }
    })
  })
}
