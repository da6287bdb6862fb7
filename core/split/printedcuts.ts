import { printCells, Prints } from '../analysis/prints'
import type { PrintedReel } from '../analysis/samepictures'
import type { Timeline } from '../timeline/model'

// Cuts made by chance as they look: tests and figures judge how regions follow by pictures by these.

/** A number 0 … 1 of a seed and two places, the same everywhere. */
function noise(seed: number, x: number, y: number): number {
  let h = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(x | 0, 0xc2b2ae35) ^ Math.imul(y | 0, 0x27d4eb2f)
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39)
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296
}
const textSeed = (text: string) => [...text].reduce((h, c) => Math.imul(h ^ c.charCodeAt(0), 0x01000193), 0x811c9dc5)

/** How a version was coded: noise in codes, gain and lift of its grade, and whether a counter is burnt in. */
export interface Coding {
  readonly seed: number
  readonly grain: number
  readonly gain?: number
  readonly lift?: number
  readonly counter?: boolean
}

/**
 * The pictures of a list of shots. All takes of a reel are of one place; a thing moves through each differently. One in
 * twelve stands still.
 */
export function printed(t: Timeline, { seed, grain, gain = 1, lift = 0, counter = false }: Coding): PrintedReel {
  const prints = new Prints(t.length)
  const cells = new Float64Array(printCells)
  for (const e of t.events) {
    const place = textSeed(e.reel)
    // shots of these cuts are thousands of frames apart in their reel
    const take = Math.floor(e.source!.in / 1000)
    const still = noise(place, take, 99) < 1 / 12
    for (let n = e.record.in; n < e.record.out; n++) {
      const k = still ? 0 : (e.source!.in + n - e.record.in) % 1000
      const [x, y] = [8 + 7 * Math.sin(k / 23 + take * 1.7), 4.5 + 4 * Math.sin(k / 31 + take * 2.3)]
      for (let i = 0; i < printCells; i++) {
        const [cx, cy] = [i % 16, Math.floor(i / 16)]
        const off = (cx - x) ** 2 + (cy - y) ** 2
        const level = 40 + 150 * noise(place, cx, cy) + 60 * Math.exp(-off / 4)
        const burnt = counter && cy === 8 && cx > 2 && cx < 7 ? 200 * noise(7, n, cx) : level
        cells[i] = (burnt * gain + lift + (noise(seed, n, i) - 0.5) * 2 * grain) | 0
      }
      prints.set(n, cells)
    }
  }
  return { prints, cuts: t.events.map((e) => e.record.in) }
}
