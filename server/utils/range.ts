import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import path from 'node:path'
import type { EventHandlerRequest, H3Event } from 'h3'
import { brandOf } from '../../core/container/registry'

/** Images are named by their endings alone. */
const images: Readonly<Record<string, string>> = { '.jpg': 'image/jpeg' }

/** Sends a file, or the range of it that is asked for (RFC 9110 14). */
export async function sendRange(event: H3Event<EventHandlerRequest>, file: string): Promise<unknown> {
  const { size } = await stat(file)
  const range = /^bytes=(\d*)-(\d*)$/.exec(getRequestHeader(event, 'range') ?? '')
  const start = range ? (range[1] ? Number(range[1]) : Math.max(0, size - Number(range[2]))) : 0
  const end = range && range[1] && range[2] ? Math.min(Number(range[2]), size - 1) : size - 1
  if (range && (start >= size || end < start)) {
    setResponseStatus(event, 416)
    return null
  }
  if (range) setResponseStatus(event, 206)
  setResponseHeaders(event, {
    'content-type': brandOf(file)?.mime ?? images[path.extname(file)] ?? 'application/octet-stream',
    'accept-ranges': 'bytes',
    'content-length': end - start + 1,
    ...(range ? { 'content-range': `bytes ${start}-${end}/${size}` } : {}),
  })
  const stream = createReadStream(file, { start, end })
  // whoever seeks in a player breaks off one request after the other
  event.node.res.once('close', () => stream.destroy())
  return sendStream(event, stream)
}
