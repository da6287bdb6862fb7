import type { SplitTimeline } from '../../../../../core/split/timeline'
import type { Frames } from '../../../../../core/time/rate'
import type { Session } from '../../../../../engine/session'

/**
 * The picture of a frame, `?w=` wide at most, as JPEG. `?as=exact`: as PNG at its own size, nothing lost;
 * `?as=waveform`: the waveform of its luma; `?as=difference`: how far it is from frame `&from=`, from the same frame of
 * the delivered file `&file=`, or from picture `&from=` of the stretch `&tryout=`; figures stand in the header
 * `x-figures`.
 */
export default route('GET timelines/:id/frames/:frame', async (session, { params, event }) => {
  const t = await session.timelines.get(params.id)
  const query = getQuery(event)
  const frame = Number(params.frame.replace(/\.jpg$/, ''))
  const kept = { 'cache-control': 'private, max-age=86400' }
  if (query.as) {
    const { image, figures } = await looked(session, t, frame, query)
    const said = figures ? { 'x-figures': JSON.stringify(figures) } : {}
    setResponseHeaders(event, { ...kept, 'content-type': 'image/png', ...said })
    return image
  }
  const width = Math.max(32, Math.min(1920, Number(query.w ?? 480) || 480))
  const jpeg = await session.viewing.picture(t, frame, width)
  setResponseHeaders(event, { ...kept, 'content-type': 'image/jpeg' })
  return jpeg
})

async function looked(session: Session, t: SplitTimeline, frame: Frames, query: Readonly<Record<string, unknown>>) {
  const { viewing, tryouts } = session
  if (query.as === 'exact') return viewing.exact(t, frame)
  if (query.as === 'waveform') return viewing.waveform(t, frame)
  if (typeof query.file === 'string') return viewing.difference(t, frame, query.file)
  const from = Number(query.from)
  return viewing.difference(
    t,
    frame,
    typeof query.tryout === 'string' ? await tryouts.frameOf(query.tryout, from) : from,
  )
}
