import { LRUCache } from 'lru-cache'
import type { SoundLevels } from '../../contract/timelines'
import { nominalRate, type Rate } from '../../core/time/rate'
import { traceAt } from '../../core/time/samples'
import { api } from './api'

/** What levels are asked of. */
interface Sounding {
  readonly id: string
  readonly model: { readonly length: number; readonly rate: Rate }
  readonly fingerprint: { readonly content: string }
}

/** Seconds of levels that are fetched at once. */
const pieceSeconds = 10
const pieces = new LRUCache<string, { levels: SoundLevels | null; readonly waiting: Set<() => void> }>({ max: 60 })

/** Levels of the piece that a frame lies in, when they are there; else they are fetched, and `ready` is called. */
function pieceOf(t: Sounding, n: number, length: number, ready: () => void): SoundLevels | null {
  const key = `${t.id}/${t.fingerprint.content}/${n}`
  const there = pieces.get(key)
  if (there) {
    if (!there.levels) there.waiting.add(ready)
    return there.levels
  }
  const slot = { levels: null as SoundLevels | null, waiting: new Set([ready]) }
  pieces.set(key, slot)
  const query = { from: String(n * length), to: String(Math.min(t.model.length, (n + 1) * length)) }
  void api('GET timelines/:id/levels', { params: { id: t.id }, query: { ...query, of: t.fingerprint.content } })
    .then((levels) => {
      slot.levels = levels
      for (const tell of slot.waiting) tell()
    })
    .catch(() => setTimeout(() => pieces.delete(key), 5000))
  return null
}

/** True peaks at a frame, and the highest of the two seconds up to it, by channel; null until they are there. */
export function levelsAt(
  t: Sounding,
  frame: number,
  ready: () => void,
): { readonly now: readonly number[]; readonly held: readonly number[] } | null {
  const { rate } = t.model
  const second = nominalRate(rate)
  const length = pieceSeconds * second
  const [first, last] = [traceAt(Math.max(0, frame - 2 * second), rate), traceAt(frame, rate)]
  let held: number[] | null = null
  let now: readonly number[] | null = null
  for (let n = Math.floor(Math.max(0, frame - 2 * second) / length); n * length <= frame; n++) {
    const piece = pieceOf(t, n, length, ready)
    if (!piece) return null
    // where the sound has ended there is silence
    const silence = Array.from({ length: piece.channels }, () => 0)
    const end = traceAt((n + 1) * length, rate) - 1
    for (let i = Math.max(first, piece.first); i <= Math.min(last, end); i++) {
      now = piece.peaks[i - piece.first] ?? silence
      held = now.map((v, c) => Math.max(v, held?.[c] ?? 0))
    }
  }
  return now && held ? { now, held } : null
}

/** A linear level in decibels; silence is −∞. */
export const decibels = (v: number): number => (v > 0 ? 20 * Math.log10(v) : -Infinity)
