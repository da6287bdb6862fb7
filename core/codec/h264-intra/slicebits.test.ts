import fc from 'fast-check'
import { expect, it } from 'vitest'
import { dc420, dc422, SliceReader, SliceWriter } from './slicebits'

const straight = Uint8Array.from({ length: 16 }, (_, i) => i)
const level = fc.oneof(
  { weight: 6, arbitrary: fc.constant(0) },
  { weight: 4, arbitrary: fc.integer({ min: -2, max: 2 }) },
  { weight: 2, arbitrary: fc.integer({ min: -40, max: 40 }) },
  { weight: 1, arbitrary: fc.integer({ min: -200_000, max: 200_000 }) },
)
const kinds = [
  ...[0, 1, 2, 3, 4, 7, 8, 16].map((nc) => ({ nc, most: 16 })),
  { nc: 3, most: 15 },
  { nc: dc420, most: 4 },
  { nc: dc422, most: 8 },
]

it('reads blocks of coefficients as they were written', () => {
  const block = fc.record({
    kind: fc.constantFrom(...kinds),
    levels: fc.array(level, { minLength: 16, maxLength: 16 }),
  })
  fc.assert(
    fc.property(fc.array(block, { minLength: 1, maxLength: 8 }), (blocks) => {
      const w = new SliceWriter()
      const wanted = blocks.map(({ kind, levels }) => {
        const c = Int32Array.from(levels.map((v, i) => (i < kind.most ? v : 0)))
        expect(w.block(c, straight, 0, kind.most, kind.nc)).toBe(c.filter((v) => v !== 0).length)
        return c
      })
      const r = new SliceReader(w.stop())
      for (const [i, { kind }] of blocks.entries()) {
        const c = new Int32Array(16)
        r.block(c, straight, 0, kind.most, kind.nc)
        expect([...c]).toEqual([...wanted[i]!])
      }
      expect(r.more()).toBe(false)
    }),
  )
})

it('reads numbers as they were written, and goes back to an earlier place', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(1 << 20), { maxLength: 40 }), fc.array(fc.nat(70_000)), (kept, dropped) => {
      const w = new SliceWriter()
      kept.forEach((v) => w.ue(v).se(-v).u(21, v))
      const length = w.length
      dropped.forEach((v) => w.ue(v))
      w.cut(length)
      expect(w.length).toBe(length)
      w.u(7, 99)
      const r = new SliceReader(w.stop())
      for (const v of kept) expect([r.ue(), r.se(), r.u(21)]).toEqual([v, v === 0 ? 0 : -v, v])
      expect(r.u(7)).toBe(99)
      expect(r.more()).toBe(false)
    }),
  )
})

it('tells what makes no sense, and where', () => {
  expect(() => new SliceReader(new Uint8Array(9)).ue()).toThrow(/a number at bit/)
  expect(() => new SliceReader(Uint8Array.of(0, 0, 0)).block(new Int32Array(16), straight, 0, 16, 0)).toThrow(
    'coeff_token at bit 0',
  )
})
