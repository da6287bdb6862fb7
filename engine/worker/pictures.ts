import { LRUCache } from 'lru-cache'
import type { Picture } from '../../core/picture/picture'
import { toProblem } from '../../core/problem'
import type { Roots } from '../storage/roots'
import { machineCodecs } from './codecs'
import type { PictureAnswer, PictureRequest } from './messages'
import { SourceCache } from './sourcecache'
import { jpegOf } from './stills'

/** Frames around an asked one that are kept, since coded pictures cost little more on the way. */
const around = 7

/** Serves exact pictures on demand, to the process that started this one; keeps the last few sources open. */
export function servePictures(roots: Roots): void {
  const sources = new SourceCache(roots, machineCodecs(), null, 4)
  const near = new LRUCache<string, Picture>({ max: 32 })
  let lastFrame = -1
  let chain = Promise.resolve()
  const answer = (a: PictureAnswer) => void process.send!(a)

  async function serve(r: PictureRequest): Promise<void> {
    const source = await sources.get(r.source)
    const key = JSON.stringify(r.source)
    const known = near.get(`${key}/${r.frame}`)
    if (known) return answer({ id: r.id, jpeg: await jpegOf(known, r.width) })
    const { webCodec, frames } = source.info.video[0]!
    const more = webCodec === null ? 0 : around
    const back = r.frame < lastFrame
    lastFrame = r.frame
    const range = {
      in: Math.max(0, r.frame - (back ? more : 0)),
      out: Math.min(frames, r.frame + 1 + (back ? 0 : more)),
    }
    // what was cut out for this frame alone knows nothing of those around it
    const asked = r.source.assembly ? { in: r.frame, out: r.frame + 1 } : range
    for await (const { frame, picture } of source.pictures().read(asked)) {
      if (more) near.set(`${key}/${frame}`, picture)
      if (frame === r.frame) answer({ id: r.id, jpeg: await jpegOf(picture, r.width) })
    }
  }

  process.on('message', (r: PictureRequest) => {
    chain = chain.then(() => serve(r)).catch((e: unknown) => answer({ id: r.id, problem: toProblem(e) }))
  })
}
