import { LRUCache } from 'lru-cache'
import { aspectValue } from '../../core/media/aspect'
import type { Picture } from '../../core/picture/picture'
import { lumaWeightsOf } from '../../core/media/colour'
import { fail, toProblem } from '../../core/problem'
import type { Roots } from '../storage/roots'
import { machineCodecs } from './codecs'
import type { FrameRef, Look, Looked, PictureAnswer, PictureRequest } from './messages'
import { SourceCache } from './sources/sourcecache'
import { differenceImage, jpegOf, pngOf, waveformImage } from './stills'

/** Frames around an asked one that are kept, since coded pictures cost little more on the way. */
const around = 7

/** Serves exact pictures on demand, to the process that started this one; keeps the last few sources open. */
export function servePictures(roots: Roots): void {
  const sources = new SourceCache(roots, machineCodecs(), null, 4)
  const near = new LRUCache<string, Picture>({ max: 32 })
  let lastFrame = -1
  let chain = Promise.resolve()
  const answer = (a: PictureAnswer) => void process.send!(a)

  /** A picture; `came` is told as soon as it is there, before those around it. */
  async function pictureOf(
    { source: ref, frame: wanted }: FrameRef,
    came: (p: Picture) => Promise<void>,
  ): Promise<void> {
    const source = await sources.get(ref)
    const key = JSON.stringify(ref)
    const known = near.get(`${key}/${wanted}`)
    if (known) return came(known)
    const { webCodec, frames } = source.info.video[0]!
    const more = webCodec === null ? 0 : around
    const back = wanted < lastFrame
    lastFrame = wanted
    const range = { in: Math.max(0, wanted - (back ? more : 0)), out: Math.min(frames, wanted + 1 + (back ? 0 : more)) }
    // what was cut out for this frame alone knows nothing of those around it
    const asked = ref.assembly ? { in: wanted, out: wanted + 1 } : range
    for await (const { frame, picture } of source.pictures().read(asked)) {
      if (more) near.set(`${key}/${frame}`, picture)
      if (frame === wanted) await came(picture)
    }
  }

  async function serve({ id, look, ...ref }: PictureRequest): Promise<void> {
    await pictureOf(ref, async (picture) => answer({ id, looked: await looked(picture, look, ref) }))
  }

  async function looked(picture: Picture, look: Look, { source }: FrameRef): Promise<Looked> {
    const weights = lumaWeightsOf((await sources.get(source)).info.video[0]!)
    if (look.as === 'picture') return { image: await jpegOf(picture, look.width, weights) }
    if (look.as === 'exact') return { image: await pngOf(picture, weights) }
    if (look.as === 'waveform') return waveformImage(picture, weights)
    const found: Picture[] = []
    await pictureOf(look.from, async (p) => void found.push(p))
    const [other] = found
    if (!other) return fail('frame.outside', `There is no frame ${look.from.frame}.`)
    const aspect = async (ref: FrameRef['source']) => aspectValue((await sources.get(ref)).info.video[0]!.pixelAspect)
    return differenceImage(picture, other, (await aspect(look.from.source)) / (await aspect(source)))
  }

  process.on('message', (r: PictureRequest) => {
    chain = chain.then(() => serve(r)).catch((e: unknown) => answer({ id: r.id, problem: toProblem(e) }))
  })
}
