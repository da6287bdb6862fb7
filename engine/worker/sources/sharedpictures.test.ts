import { expect, it } from 'vitest'
import type { PictureSource } from '../../../core/codec/codec'
import { blackPicture, type Picture } from '../../../core/picture/picture'
import { SharedPictures } from './sharedpictures'

const picture = blackPicture(16, 16, '4:2:0', 8)

/** A source that counts what it decodes, and fails at a frame when told to. */
function source(failsAt = Infinity) {
  const decoded: number[] = []
  let ended = false
  const pictures: PictureSource = {
    frames: 100,
    async *read(range) {
      try {
        for (let frame = range.in; frame < range.out; frame++) {
          await Promise.resolve()
          if (frame === failsAt) throw new Error('damaged')
          decoded.push(frame)
          yield { frame, picture }
        }
      } finally {
        ended = true
      }
    },
  }
  return { pictures, decoded, ended: () => ended }
}

async function frames(pictures: PictureSource, range = { in: 10, out: 14 }, most = Infinity, each = 0) {
  const out: number[] = []
  for await (const { frame } of pictures.read(range)) {
    out.push(frame)
    if (out.length >= most) break
    if (each) await new Promise((r) => setTimeout(r, each))
  }
  return out
}

it('decodes once what all members read, at the pace of the slowest', async () => {
  const { pictures, decoded, ended } = source()
  const shared = new SharedPictures([1, 2, 3])
  const all = await Promise.all([
    frames(shared.of(1, pictures)),
    frames(shared.of(2, pictures), undefined, Infinity, 5),
    frames(shared.of(3, pictures)),
  ])
  expect(all).toEqual([1, 2, 3].map(() => [10, 11, 12, 13]))
  expect([decoded, ended()]).toEqual([[10, 11, 12, 13], true])
})

it('goes on without a member that fails, ends early or never begins', async () => {
  const { pictures, decoded, ended } = source()
  const shared = new SharedPictures([1, 2, 3, 4])
  const failing = (async () => {
    for await (const { frame } of shared.of(2, pictures).read({ in: 10, out: 14 }))
      if (frame === 11) throw new Error('the encoder stopped')
  })()
  const failed = expect(failing).rejects.toThrow('the encoder stopped')
  const others = Promise.all([frames(shared.of(1, pictures)), frames(shared.of(3, pictures), undefined, 1)])
  await new Promise((r) => setTimeout(r, 20))
  expect(decoded).toEqual([])
  shared.leave(4)
  await failed
  expect(await others).toEqual([[10, 11, 12, 13], [10]])
  expect([decoded, ended()]).toEqual([[10, 11, 12, 13], true])
})

it('stops decoding when nobody is left', async () => {
  const { pictures, decoded, ended } = source()
  const shared = new SharedPictures([1, 2])
  await Promise.all([frames(shared.of(1, pictures), undefined, 2), frames(shared.of(2, pictures), undefined, 1)])
  await new Promise((r) => setTimeout(r, 0))
  expect([decoded, ended()]).toEqual([[10, 11], true])
})

it('lets every member know what cannot be decoded', async () => {
  const { pictures } = source(12)
  const shared = new SharedPictures([1, 2])
  const all = await Promise.allSettled([frames(shared.of(1, pictures)), frames(shared.of(2, pictures))])
  expect(all.map((r) => r.status === 'rejected' && (r.reason as Error).message)).toEqual(['damaged', 'damaged'])
})

it('reads another range for whoever asks for one, and again for whoever has left', async () => {
  const { pictures } = source()
  const shared = new SharedPictures([1, 2])
  const first = frames(shared.of(1, pictures))
  expect(await frames(shared.of(2, pictures), { in: 0, out: 2 })).toEqual([0, 1])
  shared.leave(2)
  expect(await first).toEqual([10, 11, 12, 13])
  expect(await frames(shared.of(1, pictures))).toEqual([10, 11, 12, 13])
})

it('makes once of a picture what several want alike', () => {
  const shared = new SharedPictures([1, 2])
  let made = 0
  const make = (): Picture => {
    made++
    return blackPicture(8, 8, '4:2:0', 8)
  }
  const small = shared.once(picture, '8×8', make)
  expect(shared.once(picture, '8×8', make)).toBe(small)
  expect(shared.once(picture, '4×4', make)).not.toBe(small)
  expect(shared.once(blackPicture(16, 16, '4:2:0', 8), '8×8', make)).not.toBe(small)
  expect(made).toBe(3)
})
