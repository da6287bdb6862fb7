import fc from 'fast-check'
import { expect, it } from 'vitest'
import { noise } from './noise'
import { preview, previewPlain, type PreviewJob } from './preview'

it('makes small pictures by the kernel as plainly, for any size, depth and chroma', () => {
  const size = fc.integer({ min: 2, max: 90 })
  fc.assert(
    fc.property(size, size, size, size, fc.boolean(), fc.boolean(), fc.nat(), (w, h, ow, oh, wide, half, seed) => {
      const weights = seed % 2 ? ([0.2126, 0.0722] as const) : ([0.299, 0.114] as const)
      const cw = (w + 1) >> 1
      const chromaLines = half ? (h + 1) >> 1 : h
      const make = (n: number, k: number) =>
        wide ? noise(new Uint16Array(n), 1023, seed + k) : noise(new Uint8Array(n), 255, seed + k)
      const job: PreviewJob = {
        planes: [make(w * h, 0), make(cw * chromaLines, 1), make(cw * chromaLines, 2)],
        width: w,
        height: h,
        chromaLines,
        outWidth: Math.min(w, ow),
        outHeight: Math.min(h, oh),
        weights,
      }
      expect(preview(job)).toEqual(previewPlain(job))
    }),
    { numRuns: 300 },
  )
})
