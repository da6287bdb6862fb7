import { LRUCache } from 'lru-cache'
import type { AudioInfo } from '../../core/media/media'
import { soundRate } from '../../core/sound/tracks'
import type { Frames, Samples } from '../../core/time/rate'
import { frameAtSample, sampleAtFrame } from '../../core/time/samples'
import type { Timeline } from '../../core/timeline/model'

/** Sound of one piece of a timeline, as 16-bit samples of its first channels. */
export type Wave = readonly Int16Array[]

/** Samples of a piece at most: what is fetched at once. */
const pieceLength = 1 << 19

/** A timeline whose wave is drawn. */
export interface Waved {
  readonly id: string
  readonly model: Pick<Timeline, 'length' | 'rate'>
  readonly info: { readonly audio: readonly Pick<AudioInfo, 'channels' | 'sampleRate'>[] }
  readonly fingerprint: { readonly content: string }
}

/** A timeline's sound cut into pieces of whole frames, or of samples where these are counted; counted from 0. */
export interface Pieces {
  /** Frames of each. */
  readonly frames: Frames
  /** The first sample of one. */
  begin(piece: number): Samples
  /** The one in which a sample lies. */
  at(sample: Samples): number
}

export function piecesOf({ model: { rate }, info }: Pick<Waved, 'model' | 'info'>): Pieces {
  const sampleRate = soundRate(info.audio)
  const frames = Math.floor((pieceLength * rate.num) / (rate.den * sampleRate))
  return {
    frames,
    begin: (piece) => sampleAtFrame(piece * frames, rate, sampleRate),
    at: (sample) => Math.floor(frameAtSample(sample, rate, sampleRate) / frames),
  }
}

/** A piece, or who waits for it. */
interface Slot {
  wave: Wave | null
  readonly waiting: Set<() => void>
}
const slots = new LRUCache<string, Slot>({ max: 24 })

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

/** A piece of a timeline's sound when it is there; else it is fetched, and `ready` is called once it is. */
export function wavePiece(t: Waved, piece: number, ready: () => void): Wave | null {
  const { frames } = piecesOf(t)
  const from = piece * frames
  if (from < 0 || from >= t.model.length) return null
  const to = Math.min(t.model.length, from + frames)
  const url = `/api/timelines/${t.id}/sound?from=${from}&to=${to}&of=${t.fingerprint.content}`
  const there = slots.get(url)
  if (there) {
    if (!there.wave) there.waiting.add(ready)
    return there.wave
  }
  const slot: Slot = { wave: null, waiting: new Set([ready]) }
  slots.set(url, slot)
  void fetch(url)
    .then(async (r) => {
      slot.wave = r.ok ? readWave(await r.arrayBuffer()) : null
      for (const tell of slot.waiting) tell()
      slot.waiting.clear()
    })
    .catch(() => slots.delete(url))
  return null
}

/** Lowest and highest sample of a channel over [from, to), from pieces; null where none is there. */
export function extremes(
  pieces: Pieces,
  pieceOf: (n: number) => Wave | null,
  channel: number,
  from: Samples,
  to: Samples,
): { low: number; high: number } | null {
  let low = Infinity
  let high = -Infinity
  for (let at = Math.max(0, from); at < to;) {
    const n = pieces.at(at)
    const begin = pieces.begin(n)
    const end = Math.min(to, pieces.begin(n + 1))
    const samples = pieceOf(n)?.[channel]
    if (samples)
      for (let i = at - begin; i < end - begin && i < samples.length; i++) {
        low = Math.min(low, samples[i]!)
        high = Math.max(high, samples[i]!)
      }
    at = end
  }
  return high >= low ? { low, high } : null
}
