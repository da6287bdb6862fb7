import type { SplitTimeline } from '../../../../../core/split/timeline'
import { fail } from '../../../../../core/problem'
import type { Session } from '../../../../../engine/session'
import { fingerprintOf } from '../../../../../engine/storage/fingerprint'
import type { FrameRef } from '../../../../../engine/worker/messages'

/**
 * The picture of a frame, `?w=` wide at most. `?as=waveform`: the waveform of its luma; `?as=difference`: how far it is
 * from frame `&from=`, or from the same frame of the delivered file `&file=`; figures stand in the header `x-figures`.
 */
export default route('GET timelines/:id/frames/:frame', async (session, { params, event }) => {
  const t = await session.timelines.get(params.id)
  const query = getQuery(event)
  const frame = Number(params.frame.replace(/\.jpg$/, ''))
  const kept = { 'cache-control': 'private, max-age=86400' }
  if (query.as) {
    const from = query.as === 'waveform' ? null : await otherOf(session, t, frame, query)
    const { image, figures } = await session.viewing.look(t, frame, from)
    setResponseHeaders(event, { ...kept, 'content-type': 'image/png', 'x-figures': JSON.stringify(figures) })
    return image
  }
  const width = Math.max(32, Math.min(1920, Number(query.w ?? 480) || 480))
  const jpeg = await session.viewing.picture(t, frame, width)
  setResponseHeaders(event, { ...kept, 'content-type': 'image/jpeg' })
  return jpeg
})

/** What a frame is compared with. */
async function otherOf(
  session: Session,
  t: SplitTimeline,
  frame: number,
  query: Readonly<Record<string, unknown>>,
): Promise<FrameRef | number> {
  if (typeof query.file !== 'string') return Number(query.from)
  const done = await session.handover.one(query.file)
  const region = done?.item.region
  if (!done || done.item.timeline.id !== t.id || frame < region!.in || frame >= region!.out)
    fail('file.missing', 'There is no delivered file of this frame.', query.file, 'Choose a frame that was delivered.')
  const { root } = done.item.target
  const fingerprint = await fingerprintOf(session.roots.resolve(root, done.path))
  return { source: { root, path: done.path, fingerprint }, frame: frame - region!.in }
}
