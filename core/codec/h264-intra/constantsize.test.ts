import { describe, expect, it } from 'vitest'
import { chance, hardPicture, smallFormat } from './hardpictures'
import { blackPicture, type Picture } from '../../picture/picture'
import { ConstantSize } from './constantsize'
import { IntraDecoder } from './decode'
import { IntraEncoder } from './encode'
import { unitsOf } from '../nal'
import type { Format } from './write'

const format = smallFormat({ width: 320, height: 192 })
const small = smallFormat({ width: 320, height: 192, chroma: 1, arithmetic: true })
/** As many bytes for each sample as classes 100 and 50 have. */
const sizeOf = ({ arithmetic }: Format) =>
  Math.round((arithmetic ? 281_088 / (1440 * 1080) : 568_832 / (1920 * 1080)) * 320 * 192)

const noise = (seed: number, f = format): Picture => {
  const p = hardPicture(f, seed, 0)
  const of = chance(seed)
  p.planes.forEach((plane) => plane.forEach((_, i) => (plane[i] = of(1024))))
  return p
}

/** The access units of pictures, one after the other, and what of them is not filler. */
function encode(pictures: readonly Picture[], f = format) {
  const encoder = new IntraEncoder(f)
  const size = sizeOf(f)
  const sized = new ConstantSize(encoder, size, { slices: 8, kept: true })
  return pictures.map((p) => {
    encoder.load(p)
    const bytes = sized.next()
    const used =
      bytes.length -
      unitsOf(bytes)
        .filter((u) => (u[0]! & 31) === 12)
        .reduce((n, u) => n + u.length, 0)
    return { bytes, share: used / size, planes: encoder.surface.planes.map((s) => s.slice()) }
  })
}

describe('access units of one size', () => {
  it.each([
    ['class 100', format],
    ['class 50', small],
  ])('fit exactly and waste little, whatever comes: %s', (_, f) => {
    const flat = blackPicture(320, 192, f.chroma === 1 ? '4:2:0' : '4:2:2', 10)
    const some = [3, 3, 40, 40, 12, 200].map((n, i) => hardPicture(f, i, n))
    const all = [...some, flat, noise(1, f), noise(2, f), flat, some[0]!, some[0]!]
    const units = encode(all, f)
    expect(units.map((u) => u.bytes.length)).toEqual(all.map(() => sizeOf(f)))
    // black takes what it takes at the lowest QP
    const share = units.filter((_, i) => all[i] !== flat).map((u) => u.share)
    for (const s of share) expect(s).toBeGreaterThan(0.98)
  })
  it('are decoded to what the encoder has, as frames and as fields', () => {
    for (const fields of [null, 'top'] as const)
      for (const { bytes } of encode([hardPicture(format, 5, 60), noise(3)], { ...format, fields })) {
        const picture = new IntraDecoder().decode(unitsOf(bytes))
        expect([picture.width, picture.height, picture.bitDepth]).toEqual([320, 192, 10])
      }
  })
  it('have pictures that are near to what was given', () => {
    const given = hardPicture(format, 9, 4)
    given.planes.forEach((plane, k) =>
      plane.forEach((v, i) => {
        const [x, y] = [i % (k ? 160 : 320), Math.floor(i / (k ? 160 : 320))]
        plane[i] = 512 + Math.round(300 * Math.sin(x / 9) * Math.cos(y / 14)) + (v % 5)
      }),
    )
    const { planes } = encode([given])[0]!
    let error = 0
    given.planes[0].forEach((v, i) => (error += (v - planes[0]![i]!) ** 2))
    const psnr = 10 * Math.log10(1023 ** 2 / (error / given.planes[0].length))
    expect(psnr).toBeGreaterThan(50)
  })
})
