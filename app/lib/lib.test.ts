import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ShownTimeline } from '../../contract/timelines'
import type { Scan } from '../../core/media/media'
import { makeRate } from '../../core/time/rate'
import type { Source } from '../../core/timeline/link/source'
import type { TimelineEvent } from '../../core/timeline/model'
import { flagsIn } from './flags'
import { bracketLanes, drawStrip, frameAt, stripLabel, troublesOf, yOf, type StripContent } from './strip'

/** A canvas context that only counts what is drawn. */
function counting() {
  const calls = new Map<string, number>()
  const texts: string[] = []
  const g = new Proxy({} as Record<string, unknown>, {
    get:
      (_, name: string) =>
      (...args: unknown[]) => {
        calls.set(name, (calls.get(name) ?? 0) + 1)
        if (name === 'fillText') texts.push(String(args[0]))
        return name === 'measureText' ? { width: 10 } : undefined
      },
    set: () => true,
  })
  return { g: g as unknown as CanvasRenderingContext2D, calls, texts }
}
const region = (i: number, from: number, to: number) => ({
  id: `r${i}`,
  name: `Region ${i}`,
  in: from,
  out: to,
  metadata: {},
})
const shots = Array.from({ length: 10_000 }, (_, i) => ({ in: i * 20, out: i * 20 + 20, name: `Shot ${i}`, reel: 'R' }))
const content = (changes: Partial<StripContent> = {}): StripContent => {
  const regions = Array.from({ length: 1000 }, (_, i) => region(i, i * 200, i * 200 + 200))
  return {
    base: { rate: makeRate(25), dropFrame: false },
    start: 900_000,
    length: 200_000,
    shots,
    shotStarts: shots.map((s) => s.in),
    proposed: [],
    regions,
    lanes: bracketLanes(regions),
    handles: new Map(),
    markers: [],
    ribbon: null,
    envelope: null,
    flags: [],
    found: [],
    troubles: [],
    target: null,
    playhead: 5,
    marked: { in: null, out: null },
    selected: new Set(),
    shotsSelected: new Set(),
    aspect: 16 / 9,
    image: () => null,
    ...changes,
  }
}
const palette = new Proxy({}, { get: () => '#000' }) as Record<string, string>
const view = { width: 330, height: 720, top: 0, zoom: 1.4 }

describe('strip', () => {
  it('hatches handles on both sides of their region, none past the ends of the timeline', () => {
    const filled = (handles: StripContent['handles']) => {
      const { g, calls } = counting()
      drawStrip(g, { ...view, zoom: 1, height: 400 }, content({ handles, length: 210 }), palette)
      return calls.get('fillRect')!
    }
    const none = filled(new Map())
    // r0 is at the head, and 10 of its frames come after it: 4 lines; r1 has as many before it and after it
    expect(filled(new Map([['r0', 10]])) - none).toBe(4)
    expect(filled(new Map([['r1', 10]])) - none).toBe(4)
    expect(filled(new Map([['r9', 10]])) - none).toBe(0)
  })
  it('draws only what is visible of ten thousand events and a thousand regions', () => {
    const asked: number[] = []
    const { g, calls, texts } = counting()
    drawStrip(
      g,
      { ...view, top: 100_000 },
      content({
        image: (f) => {
          asked.push(f)
          return null
        },
      }),
      palette,
    )
    expect(Math.min(...asked)).toBeGreaterThanOrEqual(99_980)
    expect(Math.max(...asked)).toBeLessThanOrEqual(100_000 + 720 / 1.4 + 20)
    expect(calls.get('stroke')!).toBeLessThan(6)
    expect(texts).toContain('11:06:41:00')
  })
  it('marks where media is missing, in words', () => {
    const events = [{ record: { in: 0, out: 100 } }, { record: { in: 100, out: 200 } }] as unknown as TimelineEvent[]
    const troubles = troublesOf({ events }, [
      { state: 'linked', events: [0] },
      { state: 'missing', problem: { code: 'link.missing', message: '' }, events: [1] },
    ] as unknown as Source[])
    expect(troubles).toEqual([{ in: 100, out: 200, word: 'no media', grave: true }])
    const { g, texts } = counting()
    drawStrip(g, view, content({ troubles }), palette)
    expect(texts).toContain('no media')
    const away = counting()
    drawStrip(away.g, { ...view, top: 5000 }, content({ troubles }), palette)
    expect(away.texts).not.toContain('no media')
  })
  it('shows the playhead, marks, faults and the loudness ribbon when they are in view', () => {
    const found = {
      ...{ black: [{ in: 3, out: 5 }], freeze: [{ in: 40, out: 80 }], flashes: [{ in: 90, out: 99 }] },
      fields: { two: [{ in: 60, out: 70, first: 'top' }], one: true },
    }
    const flags = (scan: Scan) =>
      flagsIn({ analysis: { pictures: found, sound: null }, info: { video: [{ scan }] } } as unknown as ShownTimeline)
    const plain = counting()
    drawStrip(plain.g, view, content({ flags: flags('interlaced-tff') }), palette)
    expect(plain.texts.filter((t) => 'BZFI'.includes(t))).toEqual(['B', 'Z', 'F'])
    const full = counting()
    drawStrip(
      full.g,
      view,
      content({
        marked: { in: 10, out: 30 },
        flags: flags('progressive'),
        ribbon: new Array(300).fill(-23) as number[],
        target: -23,
        markers: [{ at: 20 }],
      }),
      palette,
    )
    expect(full.texts.filter((t) => 'BZFI'.includes(t))).toEqual(['B', 'Z', 'F', 'I'])
    expect(full.calls.get('fillRect')!).toBeGreaterThan(plain.calls.get('fillRect')! + 200)
  })
  it('draws nothing but ground for an empty timeline', () => {
    const { g, calls } = counting()
    drawStrip(g, view, content({ length: 0 }), palette)
    expect([...calls]).toEqual([['fillRect', 1]])
  })
  it('lays overlapping regions side by side', () => {
    expect(bracketLanes([region(0, 0, 100), region(1, 50, 150), region(2, 100, 200), region(3, 120, 130)])).toEqual([
      0, 1, 0, 2,
    ])
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(200), fc.integer({ min: 1, max: 60 }))), (list) => {
        const regions = list.map(([a, n], i) => region(i, a, a + n)).sort((a, b) => a.in - b.in)
        const lanes = bracketLanes(regions)
        for (let i = 0; i < regions.length; i++)
          for (let k = 0; k < i; k++)
            if (lanes[i] === lanes[k]) expect(regions[k]!.out).toBeLessThanOrEqual(regions[i]!.in)
      }),
    )
  })
  it('labels whole seconds of sound alone as such, and tenths where the steps need them', () => {
    const base = { rate: makeRate(48000), dropFrame: false }
    expect(stripLabel(48000 * 61, 48000, base)).toBe('00:01:01')
    expect(stripLabel(48000 * 61 + 9600, 9600, base)).toBe('00:01:01.2')
    expect(stripLabel(25 * 61, 25, { rate: makeRate(25), dropFrame: false })).toBe('00:01:01:00')
  })
  it('draws sound alone as wide as it is loud', () => {
    const widths = new Map<number, number>()
    const context = new Proxy(
      { fillRect: (_x: number, y: number, w: number, h: number) => void (h === 1 && w > 0 && widths.set(y, w)) },
      { get: (t, k) => (k in t ? t[k as keyof typeof t] : () => ({ width: 5 })), set: () => true },
    )
    const base = { rate: makeRate(48000), dropFrame: false }
    const shots = [{ in: 0, out: 480_000, name: '', reel: '' }]
    const envelope = [...Array.from({ length: 50 }, () => -20), ...Array.from({ length: 50 }, () => null)]
    const c = content({ base, length: 480_000, shots, shotStarts: [0], regions: [], lanes: [], envelope })
    drawStrip(context as never, { ...view, zoom: 720 / 480_000 }, c, palette)
    expect(widths.get(100)).toBeCloseTo((2 / 3) * 110, 0)
    expect(widths.has(500)).toBe(false)
  })
  it('goes from pixels to frames and back', () => expect(frameAt(view, yOf(view, 321))).toBeCloseTo(321, 9))
})
