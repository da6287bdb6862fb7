import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource } from '../core/bytes'
import { openMedia } from '../core/container/registry'
import { ProblemError } from '../core/problem'
import { formats, readInterchange, writeInterchange } from '../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import { makeRate } from '../core/time/rate'
import { mp4 } from '../core/container/mp4/container'
import { wavHead } from '../core/container/wav/write'
import { mutate, seeded } from './mutate'

const rate = makeRate(30000, 1001)
const event = (track: string, from: number, to: number, more: Partial<TimelineEvent> = {}): TimelineEvent => ({
  track,
  kind: track.startsWith('A') ? 'audio' : 'video',
  name: `Fog Bell ${from}`,
  reel: 'R12',
  file: 'cards/fog, bell.mov',
  source: { in: 108000 + from, out: 108000 + to, rate, dropFrame: true },
  speed: normalSpeed,
  record: { in: from, out: to },
  transition: null,
  ...more,
})
const timeline: Timeline = {
  name: 'Almanac',
  rate,
  dropFrame: true,
  start: 107892,
  length: 400,
  tracks: [
    { name: 'V', kind: 'video' },
    { name: 'A1', kind: 'audio' },
  ],
  markers: [{ name: 'Gannets', kind: 'chapter', at: 120, frames: 0 }],
  events: [
    event('V', 0, 100),
    event('V', 100, 200, { transition: { kind: 'dissolve', frames: 12 } }),
    event('V', 200, 300, { speed: { num: -1, den: 2 } }),
    event('A1', 0, 400, { channels: [0] }),
  ],
}

describe('ten thousand damaged files', () => {
  const encoder = new TextEncoder()
  const decoder = new TextDecoder()
  it.each(formats.map((f) => f.name))('%s: a problem that says where, at worst', (format) => {
    const whole = encoder.encode(writeInterchange({ timeline }, format).text)
    const next = seeded(7)
    let read = 0
    for (let n = 0; n < 10_000; n++) {
      try {
        const r = readInterchange(decoder.decode(mutate(whole, next)), 'damaged', rate)
        for (const e of r.timeline.events) expect(e.record.out).toBeGreaterThan(e.record.in)
        read++
      } catch (e) {
        if (!(e instanceof ProblemError)) throw e
        expect(e.problem.where).toMatch(/^damaged/)
      }
    }
    expect(read).toBeGreaterThan(100)
  })
})

describe('ten thousand damaged files with chapters', () => {
  const chapters = [
    { at: 2, name: 'Fog Bell' },
    { at: 5, name: 'Low Water' },
  ]
  const movie = () => {
    const { head, tail } = mp4.layout!('mov', {
      frames: 10,
      rate,
      start: { frames: 0, dropFrame: false },
      chapters,
      dataSize: 160,
      tracks: [
        {
          essence: {
            kind: 'video',
            codec: 'v210',
            width: 6,
            height: 1,
            pixelAspect: '1:1',
            colour: null,
            scan: 'progressive',
            configuration: null,
          },
          timescale: rate.num,
          sizes: { constant: 16, count: 10 },
          durations: { constant: rate.den },
          chunks: [{ offset: 0, samples: 10 }],
        },
      ],
    })
    return concatBytes([head, new Uint8Array(160), tail])
  }
  const wave = () =>
    concatBytes([
      wavHead({
        channels: 1,
        sampleRate: 48000,
        bitDepth: 16,
        samples: 100,
        cues: [
          { at: 10, name: 'Fog Bell' },
          { at: 60, name: 'Low Water' },
        ],
        bext: {
          description: '',
          originator: '',
          originatorReference: '',
          date: '',
          time: '',
          timeReference: 0,
          loudness: null,
          history: '',
        },
      }),
      new Uint8Array(200),
    ])
  it.each([
    ['mov', movie()],
    ['wav', wave()],
  ])('%s', async (_, whole) => {
    expect((await openMedia(memorySource(whole))).info.chapters.map((c) => c.name)).toEqual(chapters.map((c) => c.name))
    const next = seeded(3)
    for (let n = 0; n < 10_000; n++) {
      try {
        const m = await openMedia(memorySource(mutate(whole, next), 'damaged'))
        expect(m.info.chapters.length).toBeLessThan(20_000)
      } catch (e) {
        if (!(e instanceof ProblemError)) throw e
      }
    }
  })
})
