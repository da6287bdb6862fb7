import { describe, expect, it } from 'vitest'
import { cutSet, scoreCuts } from './cutset'
import { cutFinder, type FoundCut } from './cuts'
import { traceOf } from './trace'

/** Finds the cuts of one reel of the set. */
function find(reel: ReturnType<typeof cutSet>[number]): FoundCut[] {
  const finder = cutFinder()
  for (let n = 0; n < reel.frames; n++) finder.feed(traceOf(reel.picture(n)))
  return finder.result()
}

describe('cut finder on the labelled set', () => {
  const reels = cutSet()
  const found = reels.map(find)
  it.each(reels.map((r, i) => [r.name, i] as const))('%s', (_, i) => {
    const s = scoreCuts(reels[i]!.truth, found[i]!)
    expect(s.hard.missed + s.hard.wrong).toBeLessThanOrEqual(1)
    expect(s.gradual.missed + s.gradual.wrong).toBeLessThanOrEqual(1)
  })
  it('reaches F1 0.98 on cuts and 0.9 on dissolves and fades', () => {
    const sum = reels.map((r, i) => scoreCuts(r.truth, found[i]!))
    const f1 = (of: 'hard' | 'gradual') => {
      const [hit, missed, wrong] = (['hit', 'missed', 'wrong'] as const).map((k) =>
        sum.reduce((n, s) => n + s[of][k], 0),
      ) as [number, number, number]
      return (2 * hit) / (2 * hit + missed + wrong)
    }
    expect(f1('hard')).toBeGreaterThanOrEqual(0.98)
    expect(f1('gradual')).toBeGreaterThanOrEqual(0.9)
  })
  it('makes one of what a moving camera makes two of', () => {
    const reel = cutSet(2).find((r) => r.name === 'dissolves over movement')!
    const { hard, gradual } = scoreCuts(reel.truth, find(reel))
    expect([hard.wrong, gradual.hit >= 2, gradual.wrong <= 1]).toEqual([0, true, true])
  })
})
