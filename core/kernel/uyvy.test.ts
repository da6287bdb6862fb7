import fc from 'fast-check'
import { expect, it } from 'vitest'
import { unpackUyvy, unpackUyvyPlain } from './uyvy'

it('takes lines of any width apart by the kernel as plainly', () =>
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 70 }), fc.integer({ min: 1, max: 5 }), fc.nat(255), (width, height, seed) => {
      const bytes = Uint8Array.from(
        { length: ((width + 1) >> 1) * 4 * height },
        (_, i) => (i * 37 + seed * i * i) & 255,
      )
      expect(unpackUyvy(bytes, width, height)).toEqual(unpackUyvyPlain(bytes, width, height))
    }),
  ))
