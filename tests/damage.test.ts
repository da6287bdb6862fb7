import { describe, expect, it } from 'vitest'
import { ProblemError } from '../core/problem'
import { formats, readInterchange, writeInterchange } from '../core/timeline/interchange'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import { makeRate } from '../core/time/rate'
import { mutate, seeded } from './mutate'

const rate = makeRate(30000, 1001)
const event = (track: string, from: number, to: number, more: Partial<TimelineEvent> = {}): TimelineEvent => ({
  track, kind: track.startsWith('A') ? 'audio' : 'video', name: `Fog Bell ${from}`, reel: 'R12', file: 'cards/fog, bell.mov', source: { in: 108000 + from, out: 108000 + to, rate, dropFrame: true }, speed: normalSpeed, record: { in: from, out: to }, transition: null, ...more,
})
const timeline: Timeline = {
  name: 'Almanac', rate, dropFrame: true, start: 107892, length: 400, tracks: [{ name: 'V', kind: 'video' }, { name: 'A1', kind: 'audio' }], markers: [{ name: 'Gannets', kind: 'chapter', at: 120, frames: 0 }],
  events: [event('V', 0, 100), event('V', 100, 200, { transition: { kind: 'dissolve', frames: 12 } }), event('V', 200, 300, { speed: { num: -1, den: 2 } }), event('A1', 0, 400, { channels: [0] })],
}

describe('ten thousand damaged files', () => {
  const encoder = new TextEncoder()
  const decoder = new TextDecoder()
  it.each(formats)('%s: a problem that says where, at worst', (format) => {
    const whole = encoder.encode(writeInterchange({ timeline }, format).text)
    const next = seeded(7)
    let read = 0
    for (let n = 0; n < 10_000; n++) {
      try {
        const r = readInterchange(decoder.decode(mutate(whole, next)), 'damaged', rate)
        for (const e of r.timeline.events) expect(e.record.out).toBeGreaterThan(e.record.in)
        read++
      }
      catch (e) {
        if (!(e instanceof ProblemError)) throw e
        expect(e.problem.where).toMatch(/^damaged/)
      }
    }
    expect(read).toBeGreaterThan(100)
  })
})
