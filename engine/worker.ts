import { randomBytes } from 'node:crypto'
import { setPriority } from 'node:os'
import { openPictures } from '../core/codec/pictures'
import { openMedia } from '../core/media/open'
import { toProblem } from '../core/problem'
import { machineCodecs } from './codecs'
import { openDatabase } from './database'
import { openFile, type OpenFile } from './disk'
import { dataFolders } from './home'
import { Roots, type Root } from './roots'
import { jpegOf } from './tasks/stills'
import { work } from './work'

/** How a worker process is started: the engine puts this into VELVET_WORKER. */
export interface WorkerStart {
  readonly mode: 'work' | 'pictures'
  readonly data: string
  readonly roots: readonly Root[]
  readonly index: number
}

/** A request to a pictures process, over the channel to its parent. */
export interface PictureRequest { readonly id: number, readonly file: string, readonly frame: number, readonly width: number }
export type PictureAnswer = { readonly id: number, readonly jpeg: Uint8Array } | { readonly id: number, readonly problem: ReturnType<typeof toProblem> }

const start = JSON.parse(process.env.VELVET_WORKER ?? 'null') as WorkerStart | null
if (start) {
  // a worker whose parent is gone has nobody to work for
  process.on('disconnect', () => process.exit(0))
  if (start.mode === 'work') await runWork(start)
  else runPictures()
}

async function runWork(s: WorkerStart): Promise<void> {
  try {
    setPriority(10)
  }
  catch { /* some systems do not allow it; work goes on at the usual priority */ }
  const folders = dataFolders(s.data)
  const db = await openDatabase(folders.database)
  await work({ db, roots: new Roots(s.roots), folders }, `${process.pid}-${randomBytes(4).toString('hex')}`, s.index, () => false)
}

/** Serves exact pictures on demand; keeps the last few files open. */
function runPictures(): void {
  const open = new Map<string, Promise<{ source: OpenFile, media: Awaited<ReturnType<typeof openMedia>> }>>()
  let chain = Promise.resolve()
  process.on('message', (r: PictureRequest) => {
    chain = chain.then(async () => {
      try {
        let entry = open.get(r.file)
        if (!entry) {
          entry = openFile(r.file).then(async source => ({ source, media: await openMedia(source) }))
          open.set(r.file, entry)
          if (open.size > 4) {
            const [oldest, value] = open.entries().next().value!
            open.delete(oldest)
            value.then(v => v.source.close()).catch(() => undefined)
          }
        }
        const { media } = await entry
        for await (const { picture } of openPictures(media, machineCodecs()).read({ in: r.frame, out: r.frame + 1 })) {
          process.send!({ id: r.id, jpeg: await jpegOf(picture, r.width) } satisfies PictureAnswer)
        }
      }
      catch (e) {
        open.delete(r.file)
        process.send!({ id: r.id, problem: toProblem(e) } satisfies PictureAnswer)
      }
    })
  })
}
