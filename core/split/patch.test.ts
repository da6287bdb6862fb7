import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyPatch, diffSplit } from './patch'
import { sameSplit, type Split } from './region'

const id = fc.constantFrom(...'abcdefgh')
const splits: fc.Arbitrary<Split> = fc.record({
  regions: fc.uniqueArray(
    fc.record({
      id: id.map((x) => `r${x}`),
      name: fc.string(),
      in: fc.nat(50),
      out: fc.integer({ min: 51, max: 99 }),
      metadata: fc.constant({}),
    }),
    { selector: (r) => r.id },
  ),
  markers: fc.uniqueArray(fc.record({ id: id.map((x) => `m${x}`), at: fc.nat(99), name: fc.string() }), {
    selector: (m) => m.id,
  }),
  accepted: fc.uniqueArray(
    fc.record({ id: id.map((x) => `sliver ${x}`), reason: fc.string(), initials: fc.constantFrom('A', 'B') }),
    { selector: (a) => a.id },
  ),
})

describe('what changed of a split', () => {
  it('makes the one of the other, once or twice applied (property)', () => {
    fc.assert(
      fc.property(splits, splits, (before, after) => {
        const patch = diffSplit(before, after)
        const once = applyPatch(before, patch)
        expect(sameSplit(once, after)).toBe(true)
        expect(sameSplit(applyPatch(once, patch), after)).toBe(true)
      }),
    )
  })
  it('is small for a small edit, and leaves all else as the same objects', () => {
    const regions = Array.from({ length: 2000 }, (_, i) => ({
      id: `r${i}`,
      name: `Part ${i}`,
      in: i * 10,
      out: i * 10 + 10,
      metadata: {},
    }))
    const before: Split = { regions, markers: [] }
    const after: Split = { ...before, regions: regions.map((r, i) => (i === 7 ? { ...r, name: 'Fog Bell' } : r)) }
    const patch = diffSplit(before, after)
    expect(JSON.stringify(patch).length).toBeLessThan(200)
    const made = applyPatch(before, patch)
    expect(made.regions.filter((r, i) => r === regions[i])).toHaveLength(1999)
  })
})
