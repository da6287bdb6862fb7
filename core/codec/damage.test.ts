import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { blackPicture } from '../picture/picture'
import { ProblemError } from '../problem'
import type { FrameRange } from '../time/range'
import type { PictureSource } from './codec'
import { accepting, readThrough } from './damage'

const shape = { width: 16, height: 16, chroma: '4:2:0', bitDepth: 8 }
const frames = 40
const numbered = (n: number) => {
  const p = blackPicture(16, 16, '4:2:0', 8)
  p.planes[0].fill(n + 20)
  return p
}
const numberOf = (p: { planes: readonly ArrayLike<number>[] }) => p.planes[0]![0]! - 20

/**
 * Pictures in groups of which each leans on the one before it; `ahead`: how many a decoder is fed before it gives the
 * first of them, so that damage is met before frames in front of it have come.
 */
function grouped(group: number, broken: readonly number[], ahead: number, code = 'media.undecodable'): PictureSource {
  const begin = (n: number) => n - (n % group)
  const decode = (n: number) => {
    const at = broken.find((b) => b >= begin(n) && b <= n)
    if (at !== undefined) throw new ProblemError({ code, message: `picture ${at}` })
  }
  return {
    frames,
    after: (n) => begin(n) + group,
    async *read({ in: from, out }: FrameRange) {
      for (let n = from; n < out; n++) {
        await Promise.resolve()
        for (let k = n; k < Math.min(out, n + ahead); k++) decode(k)
        yield { frame: n, picture: numbered(n) }
      }
    },
  }
}
async function all(source: PictureSource, range: FrameRange) {
  const out: [number, number, boolean][] = []
  for await (const { frame, picture, damaged } of readThrough(source, range, shape))
    out.push([frame, numberOf(picture), damaged !== null])
  return out
}

describe('reading through damage', () => {
  it('costs a picture that stands alone nothing but itself', async () => {
    const seen = await all(grouped(1, [7, 8, 20], 4), { in: 5, out: 25 })
    expect(seen.map(([n]) => n)).toEqual(Array.from({ length: 20 }, (_, i) => i + 5))
    expect(seen.filter(([, , d]) => d)).toEqual([
      [7, 6, true],
      [8, 6, true],
      [20, 19, true],
    ])
    expect(seen.every(([n, shown, d]) => d || n === shown)).toBe(true)
  })

  it('gives every frame once, in order, and its own picture wherever that can be decoded', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 12 }),
        fc.uniqueArray(fc.integer({ min: 0, max: frames - 1 }), { maxLength: 6 }),
        fc.integer({ min: 1, max: 7 }),
        fc.integer({ min: 0, max: frames - 2 }),
        async (group, broken, ahead, from) => {
          const seen = await all(grouped(group, broken, ahead), { in: from, out: frames })
          expect(seen.map(([n]) => n)).toEqual(Array.from({ length: frames - from }, (_, i) => i + from))
          const lost = (n: number) => broken.some((b) => b <= n && Math.floor(b / group) === Math.floor(n / group))
          for (const [n, shown, damaged] of seen) {
            expect([n, damaged]).toEqual([n, lost(n)])
            if (!damaged) expect(shown).toBe(n)
          }
        },
      ),
    )
  })

  it('lets the nearest one before stand in, the same wherever reading begins; black where there is none', async () => {
    const source = grouped(1, [0, 1, 9, 10, 11], 1)
    expect(await all(source, { in: 11, out: 12 })).toEqual([[11, 8, true]])
    expect((await all(source, { in: 8, out: 12 })).map(([, shown]) => shown)).toEqual([8, 8, 8, 8])
    // black: code 16
    expect((await all(source, { in: 1, out: 3 })).map(([, shown]) => shown)).toEqual([-4, 2])
  })

  it('does not take for damage what is none', async () => {
    await expect(all(grouped(1, [7], 1, 'file.missing'), { in: 5, out: 10 })).rejects.toThrow('picture 7')
  })

  it('is for frames that were accepted, and for no others', async () => {
    const source = accepting(grouped(1, [7, 12], 1), [{ in: 7, out: 9 }], shape)
    const shown: number[] = []
    const read = async (range: FrameRange) => {
      for await (const { picture } of source.read(range)) shown.push(numberOf(picture))
    }
    await read({ in: 6, out: 9 })
    expect(shown).toEqual([6, 6, 8])
    await expect(read({ in: 10, out: 14 })).rejects.toThrow('picture 12')
  })
})
