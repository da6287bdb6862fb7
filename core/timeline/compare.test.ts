import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { FoundCut } from '../analysis/cuts'
import { makeRate } from '../time/rate'
import { compareVersions } from './versions'
import { normalSpeed, topEvents, type Timeline, type TimelineEvent } from './model'
import { placeTimeline } from './align'
import { compareCuts, hasCuts, shotsWithFound } from './comparecuts'

const rate = makeRate(25)
const shot = (reel: string, from: number, n: number, first = 0): TimelineEvent => ({
  track: 'V',
  kind: 'video',
  name: reel,
  reel,
  file: null,
  source: { in: first, out: first + n, rate },
  speed: normalSpeed,
  record: { in: from, out: from + n },
  transition: null,
})
const timeline = (events: TimelineEvent[], more: Partial<Timeline> = {}): Timeline => ({
  name: 't',
  rate,
  dropFrame: false,
  start: 90_000,
  length: Math.max(0, ...events.map((e) => e.record.out)),
  tracks: [{ name: 'V', kind: 'video' }],
  events,
  markers: [],
  ...more,
})
/** Shots one after the other, of a few reels. */
const anyCut = fc
  .array(fc.tuple(fc.constantFrom('A', 'B', 'C'), fc.integer({ min: 1, max: 40 }), fc.integer({ min: 0, max: 200 })), {
    minLength: 1,
    maxLength: 12,
  })
  .map((list) => {
    let at = 0
    return timeline(
      list.map(([reel, n, first]) => {
        const e = shot(reel, at, n, first)
        at += n
        return e
      }),
    )
  })
const hard = (at: number): FoundCut => ({ at, kind: 'cut', from: at, to: at })

describe('two versions (property)', () => {
  it('that are the same have every shot kept', () => {
    fc.assert(
      fc.property(
        anyCut,
        (t) => void expect(compareVersions(t, t).every((c) => c.kind === 'kept' && c.was!.in === c.in)).toBe(true),
      ),
    )
  })
  it('account for every shot of both, once', () => {
    fc.assert(
      fc.property(anyCut, anyCut, (older, newer) => {
        const changes = compareVersions(older, newer)
        const there = changes.filter((c) => c.kind !== 'gone')
        expect(there.map((c) => [c.in, c.out])).toEqual(topEvents(newer).map((e) => [e.record.in, e.record.out]))
        const used = [
          ...there.flatMap((c) => (c.was ? [c.was] : [])),
          ...changes.filter((c) => c.kind === 'gone').map((c) => c.was!),
        ]
          .map((r) => r.in)
          .sort((a, b) => a - b)
        expect(used).toEqual(topEvents(older).map((e) => e.record.in))
        expect(there.filter((c) => c.kind === 'new').every((c) => c.was === null)).toBe(true)
      }),
    )
  })
  it('have what was new gone when they change places', () => {
    fc.assert(
      fc.property(anyCut, anyCut, (a, b) => {
        const count = (kind: string, list: readonly { kind: string }[]) => list.filter((c) => c.kind === kind).length
        expect(
          count('new', compareVersions(a, b)) === count('gone', compareVersions(b, a)) ||
            compareVersions(a, b).some((c) => c.kind === 'trimmed'),
        ).toBe(true)
      }),
    )
  })
  it('a shot put in front moves the rest', () => {
    const before = timeline([shot('A', 0, 20, 5), shot('B', 20, 30)])
    const after = timeline([shot('C', 0, 10), shot('A', 10, 20, 5), shot('B', 30, 28)])
    expect(compareVersions(before, after).map((c) => [c.kind, c.name, c.was?.in ?? null])).toEqual([
      ['new', 'C', null],
      ['moved', 'A', 0],
      ['trimmed', 'B', 20],
    ])
  })
})

describe('a list that is shifted', () => {
  const cutsAt = fc
    .uniqueArray(fc.integer({ min: 30, max: 3000 }), { minLength: 6, maxLength: 40 })
    .map((l) => l.sort((a, b) => a - b))
    .filter((l) => l.every((n, i) => i === 0 || n - l[i - 1]! > 26))
  const listOf = (cuts: number[]) =>
    timeline([0, ...cuts].map((n, i, all) => shot(`R${i}`, n, (all[i + 1] ?? n + 40) - n)))
  it('is told by how much, either way (property)', () => {
    fc.assert(
      fc.property(cutsAt, fc.integer({ min: -12, max: 12 }), (cuts, by) => {
        const c = compareCuts(
          listOf(cuts),
          cuts.map((n) => hard(n + by)),
        )
        expect(c.shift).toBe(by === 0 ? null : by)
        expect(c.agree).toBe(by === 0 ? cuts.length : 0)
      }),
    )
  })
  it('is not one when cuts are off each in its own way, or are few', () => {
    const cuts = Array.from({ length: 20 }, (_, i) => 40 + i * 40)
    expect(
      compareCuts(
        listOf(cuts),
        cuts.map((n, i) => hard(n + (i % 5) - 2)),
      ).shift,
    ).toBeNull()
    expect(compareCuts(listOf([40, 90]), [hard(42), hard(92)]).shift).toBeNull()
  })
  it('holds though a third of the cuts is missing, and others are found that no list gives', () => {
    const cuts = Array.from({ length: 12 }, (_, i) => 40 + i * 40)
    const found = [...cuts.filter((_, i) => i % 4 !== 3).map((n) => hard(n - 3)), hard(55), hard(255)]
    expect(compareCuts(listOf(cuts), found)).toMatchObject({ shift: -3, agree: 0, given: 12 })
  })
  it('takes a cut within a dissolve for found', () => {
    const c = compareCuts(listOf([40, 100, 160]), [
      hard(40),
      { at: 104, kind: 'dissolve', from: 98, to: 110 },
      hard(160),
      hard(130),
    ])
    expect(c).toEqual({ agree: 3, given: 3, extra: [130], shift: null })
  })
})

describe('shots where no list was given', () => {
  it('are those between found cuts, from the first frame to the last', () => {
    const whole = timeline([shot('reel.mov', 0, 100)])
    expect(hasCuts(whole)).toBe(false)
    expect(shotsWithFound(whole, [hard(20), hard(60)]).map((s) => [s.in, s.out])).toEqual([
      [0, 20],
      [20, 60],
      [60, 100],
    ])
    expect(shotsWithFound(whole, [hard(0), hard(100)]).map((s) => [s.in, s.out])).toEqual([[0, 100]])
    expect(shotsWithFound(whole, undefined)).toHaveLength(1)
  })
  it('are those of the list where there is one', () => {
    const t = timeline([shot('A', 0, 50), shot('B', 50, 50)])
    expect(shotsWithFound(t, [hard(20)]).map((s) => s.in)).toEqual([0, 50])
  })
})

describe('a list laid against a file (property)', () => {
  it('keeps what lies within it, at its own timecode', () => {
    fc.assert(
      fc.property(
        anyCut,
        fc.integer({ min: -300, max: 300 }),
        fc.integer({ min: 1, max: 400 }),
        (t, offset, length) => {
          const { timeline: placed, problems } = placeTimeline(
            t,
            { start: t.start + offset, length, dropFrame: false, hasTimecode: true },
            'list.edl',
          )
          for (const e of placed.events) {
            expect([e.record.in >= 0, e.record.out <= length]).toEqual([true, true])
            const own = t.events.find(
              (x) => x.record.in - offset <= e.record.in && x.record.out - offset >= e.record.out && x.reel === e.reel,
            )!
            expect(e.source!.in - own.source!.in).toBe(e.record.in - (own.record.in - offset))
          }
          const within = t.events.filter((e) => e.record.out - offset > 0 && e.record.in - offset < length).length
          expect(placed.events).toHaveLength(within)
          expect(problems.some((p) => p.code === 'timeline.start')).toBe(within === 0 || offset > 0)
        },
      ),
    )
  })
})
