import { LRUCache } from 'lru-cache'

/** Sound of one piece of a timeline, as 16-bit samples of its first channels. */
export type Wave = readonly Int16Array[]

/** Samples of a piece: what is fetched at once. */
export const pieceLength = 1 << 19

/** A piece, or who waits for it. */
interface Slot {
  wave: Wave | null
  readonly waiting: Set<() => void>
}
const pieces = new LRUCache<string, Slot>({ max: 24 })

/** The samples of a WAV file of 16-bit PCM as the server writes it (RIFF/WAVE); null when it is none. */
export function readWave(bytes: ArrayBuffer): Wave | null {
  const view = new DataView(bytes)
  let channels = 0
  for (let at = 12; at + 8 <= view.byteLength;) {
    const tag = String.fromCharCode(...new Uint8Array(bytes, at, 4))
    const size = view.getUint32(at + 4, true)
    if (tag === 'fmt ') channels = view.getUint16(at + 10, true)
    if (tag === 'data' && channels > 0) {
      const count = Math.floor(Math.min(size, view.byteLength - at - 8) / (2 * channels))
      return Array.from({ length: channels }, (_, c) =>
        Int16Array.from({ length: count }, (_x, i) => view.getInt16(at + 8 + (i * channels + c) * 2, true)),
      )
    }
    at += 8 + size + (size & 1)
  }
  return null
}

/**
 * A piece of a timeline's sound, counted from 0 in {@link pieceLength}, when it is there; else it is fetched, and
 * `ready` is called once it is.
 */
export function wavePiece(
  t: {
    readonly id: string
    readonly model: { readonly length: number }
    readonly fingerprint: { readonly content: string }
  },
  piece: number,
  ready: () => void,
): Wave | null {
  const from = piece * pieceLength
  if (from < 0 || from >= t.model.length) return null
  const to = Math.min(t.model.length, from + pieceLength)
  const url = `/api/timelines/${t.id}/sound?from=${from}&to=${to}&of=${t.fingerprint.content}`
  const there = pieces.get(url)
  if (there) {
    if (!there.wave) there.waiting.add(ready)
    return there.wave
  }
  const slot: Slot = { wave: null, waiting: new Set([ready]) }
  pieces.set(url, slot)
  void fetch(url)
    .then(async (r) => {
      slot.wave = r.ok ? readWave(await r.arrayBuffer()) : null
      for (const tell of slot.waiting) tell()
      slot.waiting.clear()
    })
    .catch(() => pieces.delete(url))
  return null
}

/** Lowest and highest sample of a channel over [from, to) of a timeline, from its pieces; null where none is there. */
export function extremes(
  pieceOf: (n: number) => Wave | null,
  channel: number,
  from: number,
  to: number,
): { low: number; high: number } | null {
  let low = Infinity
  let high = -Infinity
  for (let at = Math.max(0, from); at < to;) {
    const n = Math.floor(at / pieceLength)
    const end = Math.min(to, (n + 1) * pieceLength)
    const samples = pieceOf(n)?.[channel]
    if (samples)
      for (let i = at - n * pieceLength; i < end - n * pieceLength && i < samples.length; i++) {
        low = Math.min(low, samples[i]!)
        high = Math.max(high, samples[i]!)
      }
    at = end
  }
  return high >= low ? { low, high } : null
}
