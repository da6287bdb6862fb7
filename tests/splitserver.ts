import { vi } from 'vitest'
import type { ShownTimeline } from '../contract/timelines'
import { applyPatch, type Patch } from '../core/split/patch'
import type { Split } from '../core/split/region'
import { makeRate } from '../core/time/rate'

/** An event of a list, as long as its place in the timeline. */
export const event = (from: number, to: number, name: string) => ({
  track: 'V',
  kind: 'video' as const,
  name,
  reel: name,
  file: null,
  source: null,
  speed: { num: 1, den: 1 },
  record: { in: from, out: to },
  transition: null,
})
/** Three shots at 25 frames a second: wide 0–100, close 100–180, gannets 180–300. */
export const model = {
  name: 'Reel',
  rate: makeRate(25),
  dropFrame: false,
  start: 900_000,
  length: 300,
  tracks: [{ name: 'V', kind: 'video' as const }],
  markers: [],
  events: [event(0, 100, 'wide'), event(100, 180, 'close'), event(180, 300, 'gannets')],
}
/** Splits as the server has them, by their version. */
const kept = new Map<number, Split>()
/** The timeline of that model, as the server shows it with a version of its split. */
export const timeline = (split: Split = { regions: [], markers: [] }, version = 1, id = 't') => {
  kept.set(version, split)
  return { id, name: 'Reel', model, split, splitVersion: version } as unknown as ShownTimeline
}

/** What was sent to be saved, and with which version it was made. */
export interface Sent {
  readonly split: Split
  readonly version: number
}

/** A server that keeps one split, as the real one does; what it was sent, and how it answers. */
export const server = {
  saved: [] as Sent[],
  answer: (sent: Sent): { status: number; json: unknown } => take(sent),
}

/** Takes what was sent as the next version. */
export function take(sent: Sent) {
  server.saved.push(sent)
  return { status: 200, json: { version: sent.version + 1 } }
}

function storage() {
  const m = new Map<string, string>()
  return {
    getItem: (k: string) => m.get(k) ?? null,
    setItem: (k: string, v: string) => void m.set(k, v),
    removeItem: (k: string) => void m.delete(k),
  }
}

/** A browser that has kept nothing yet, and a server that takes everything. */
export function startAnew() {
  vi.useRealTimers()
  vi.stubGlobal('localStorage', storage())
  vi.stubGlobal('sessionStorage', storage())
  server.saved = []
  server.answer = take
  online()
}

/** Puts the server at the end of the line. */
export function online() {
  vi.stubGlobal('fetch', async (_: string, o: { body: string }) => {
    const { patch, version } = JSON.parse(o.body) as { patch: Patch; version: number }
    const split = applyPatch(kept.get(version)!, patch)
    const a = server.answer({ split, version })
    if (a.status < 300) kept.set((a.json as { version: number }).version, split)
    return { ok: a.status < 300, status: a.status, json: async () => a.json }
  })
}
