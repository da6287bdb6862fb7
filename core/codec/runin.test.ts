import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { Encoder } from './codec'
import { withRunIn } from './runin'

/** A coder of packets of four samples, as bytes, the first of which holds silence. */
function coder(): Encoder<Float32Array[]> & { readonly fed: number[] } {
  const fed: number[] = []
  let taken = 0
  let over = false
  const padded = () => [0, 0, 0, 0, ...fed, ...(over ? [0, 0, 0] : [])]
  return {
    fed,
    feed([block]) {
      fed.push(...block!)
      return Promise.resolve()
    },
    take() {
      const units = []
      for (; (taken + 1) * 4 <= padded().length; taken++)
        units.push({ bytes: Uint8Array.from(padded().slice(taken * 4, taken * 4 + 4)), sync: true })
      return units
    },
    flush() {
      over = true
      return Promise.resolve()
    },
    configuration: () => null,
    close: () => undefined,
  }
}

async function coded(blocks: readonly (readonly number[])[]) {
  const inner = coder()
  const outer = withRunIn(inner, { packetSamples: 4, priming: 4, before: 3, after: 2 })
  const units: number[][] = []
  for (const block of blocks) {
    await outer.feed([Float32Array.from(block)])
    units.push(...outer.take().map((u) => [...u.bytes]))
  }
  await outer.flush()
  units.push(...outer.take().map((u) => [...u.bytes]))
  return { units, fed: inner.fed }
}

it('leads in by the first samples turned over, and out by the last', async () => {
  const sound = Array.from({ length: 16 }, (_, i) => i + 1)
  const { units, fed } = await coded([sound.slice(0, 5), sound.slice(5)])
  expect(fed).toEqual([12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1, ...sound, 16, 15, 14, 13, 12, 11, 10, 9])
  // what a coder gives before the first sample is what leads in, and nothing of what leads out is left
  expect(units).toEqual([[4, 3, 2, 1], [1, 2, 3, 4], [5, 6, 7, 8], [9, 10, 11, 12], sound.slice(12)])
})

it('gives every sample in its place, however it is fed', async () => {
  const block = fc.array(fc.integer({ min: 1, max: 255 }), { minLength: 1 })
  await fc.assert(
    fc.asyncProperty(fc.array(block, { minLength: 1 }), async (blocks) => {
      const sound = blocks.flat()
      const { units } = await coded(blocks)
      expect(units.length).toBe(Math.ceil((sound.length + 4) / 4))
      expect(units.flat().slice(4, 4 + sound.length)).toEqual(sound)
    }),
  )
})
