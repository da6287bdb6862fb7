import { expect, it } from 'vitest'
import type { Described, Evidence } from '../measure'
import { soundDepthUsed } from './sounddepthused'

const read = (audio: { codec: string; bitDepth: number } | null, carried?: Evidence['carried']) =>
  soundDepthUsed.read({ described: { audio } as unknown as Described, ...(carried === undefined ? {} : { carried }) })

it.each([
  [24, 24, 'all', '24 bit, all of them'],
  [24, 16, 'filled up', '24 bit, of which only 16 carry anything: the lowest are always nought'],
  [16, 16, 'all', '16 bit, all of them'],
  [32, 24, 'all', '32 bit, all of them'],
  [32, 20, 'filled up', '32 bit, of which only 20 carry anything: the lowest are always nought'],
  [24, null, 'none', '24 bit, and silence'],
  [32, 'floats', 'none', 'none: floating point'],
] as const)('%s bit of which %s carry something: %s', (bitDepth, carried, value, text) => {
  const faults = value === 'filled up' ? { faults: [`${carried} bits`] } : {}
  expect(read({ codec: 'pcm', bitDepth }, carried)).toEqual({ value, text, ...faults })
})

it('is known before where samples of fewer bits are written as they are', () => {
  const of = (had: number) =>
    soundDepthUsed.read({ described: { audio: { codec: 'pcm', bitDepth: 24 } } as never, had })
  const text = '24 bit, of which the source has 16: the lowest will be nought'
  expect(of(16)).toEqual({ value: 'filled up', text, faults: ['16 bits'] })
  expect(of(24)).toBeNull()
})

it('is not passed where it was not looked for, and not asked of what keeps no depth', () => {
  expect(read({ codec: 'pcm', bitDepth: 24 })).toBeNull()
  expect(soundDepthUsed.read({})).toBeNull()
  expect(read({ codec: 'aac', bitDepth: 16 }, 24)?.value).toBe('none')
  expect(read(null)?.value).toBe('none')
})
