import { expect, it } from 'vitest'
import type { Media, VideoInfo } from '../media/media'
import { withDoubts } from './doubts'

it.each([
  [720, 576, '1:1', true],
  [720, 486, '1:1', true],
  [704, 480, '1:1', true],
  [720, 576, '64:45', false],
  [720, 480, '8:9', false],
  [768, 576, '1:1', false],
  [1024, 576, '1:1', false],
  [640, 480, '1:1', false],
])('%d×%d of %s pixels is doubtful: %s', (width, height, pixelAspect, doubtful) => {
  const video = { width, height, pixelAspect, scan: 'progressive' } as VideoInfo
  const info = { video: [video], audio: [], problems: [] }
  const { problems } = withDoubts({ source: { name: 'a.mov' }, info } as unknown as Media).info
  expect(problems.map((p) => p.code)).toEqual(doubtful ? ['media.square-pixels'] : [])
})
