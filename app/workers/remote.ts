import { LRUCache } from 'lru-cache'
import type { ByteSource } from '../../core/bytes'
import { fail } from '../../core/problem'

/** A file on the server, read in blocks of so many bytes; with `ahead` the next is fetched while one is used. */
export async function remoteSource(url: string, block: number, ahead: boolean): Promise<ByteSource> {
  const head = await fetch(url, { headers: { range: 'bytes=0-0' } })
  const size = Number(/\/(\d+)$/.exec(head.headers.get('content-range') ?? '')?.[1] ?? Number.NaN)
  if (!Number.isFinite(size))
    fail(
      'remote.unread',
      `The server does not give this file (it answered ${head.status}).`,
      url,
      'Look whether the file is still where it was, and open it again.',
    )
  const blocks = new LRUCache<number, Promise<Uint8Array>>({ max: 48 << (20 - Math.log2(block)) })
  const get = (n: number): Promise<Uint8Array> => {
    const known = blocks.get(n)
    if (known) return known
    const made = fetch(url, { headers: { range: `bytes=${n * block}-${Math.min(size, (n + 1) * block) - 1}` } }).then(
      async (r) => {
        if (r.status !== 206) throw new Error(`The server answered ${r.status}.`)
        return new Uint8Array(await r.arrayBuffer())
      },
    )
    made.catch(() => blocks.delete(n))
    blocks.set(n, made)
    return made
  }
  return {
    name: url,
    size,
    async read(offset, length) {
      const end = Math.min(size, offset + length)
      const out = new Uint8Array(Math.max(0, end - offset))
      for (let at = offset; at < end;) {
        const n = Math.floor(at / block)
        const from = at - n * block
        const part = (await get(n)).subarray(from, Math.min(block, from + end - at))
        out.set(part, at - offset)
        at += part.length
        if (ahead && (n + 1) * block < size) get(n + 1).catch(() => undefined)
      }
      return out
    },
  }
}
