import { expect, it } from 'vitest'
import { noise } from '../../../core/kernel/noise'
import { pictureDifference, toChroma422, toDepth, type Picture } from '../../../core/picture/picture'
import { compareEnd } from './ends'

// Ten pictures of a shade that grows from left to right and moves with time, with or without grain.

const [width, height, frames] = [640, 360, 10]

function picture(n: number, grain: number): Picture {
  const luma = noise(new Uint8Array(width * height), 2 * grain, n + 1)
  for (let i = 0; i < luma.length; i++) luma[i] = luma[i]! - grain + 40 + ((((i % width) + 8 * n) % width) >> 2)
  const colour = () => new Uint8Array((width * height) / 4).fill(128)
  return { width, height, chroma: '4:2:0', bitDepth: 8, planes: [luma, colour(), colour()] }
}

/** Compares a written picture with frame 4 of a timeline that has grain. */
async function compared(written: Picture, grain: number) {
  const source = {
    info: { video: [{ frames, width, height }] },
    pictures: () => ({
      frames,
      async *read(range: { in: number; out: number }) {
        for (let n = range.in; n < range.out; n++) yield { frame: n, picture: picture(n, grain) }
      },
    }),
    render: ([p]: Picture[]) => p!,
  }
  const { end } = await compareEnd({ source, item: { output: {} } } as never, written, 4, 4)
  return end
}

it('takes a picture that lost its grain for what it is', async () => {
  const written = picture(4, 0)
  expect(pictureDifference(picture(4, 30), written)).toBeGreaterThan(10)
  const { difference, shift } = await compared(written, 30)
  expect([difference < 2, shift]).toEqual([true, 0])
})

it.each([
  ['without grain', 0],
  ['with grain', 30],
])('tells a neighbour by how many frames it is off, %s', async (_, grain) => {
  for (const off of [-2, 1]) expect((await compared(picture(4 + off, grain), grain)).shift).toBe(off)
})

it('tells another level, another shade and another raster', async () => {
  const brighter = picture(4, 0)
  brighter.planes[0].forEach((v, i, plane) => (plane[i] = v + 9))
  expect((await compared(brighter, 0)).difference).toBeCloseTo(9, 0)
  const redder = picture(4, 0)
  redder.planes[2].fill(150)
  expect((await compared(redder, 0)).difference).toBeCloseTo(11, 0)
  expect((await compared(toDepth(toChroma422(picture(4, 0)), 10), 0)).difference).toBe(0)
  expect((await compared({ ...picture(4, 0), width: width / 2, height: height * 2 }, 0)).difference).toBe(255)
})
