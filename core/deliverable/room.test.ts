import { expect, it } from 'vitest'
import type { Draft } from './draft'
import { enoughRoom, roomFor } from './room'

const file = (bytes: number, kind: string, bytesOff: number | null = 0) =>
  ({ output: { bytes, bytesOff }, steps: [{ kind }, { kind: 'prove' }] }) as unknown as Pick<Draft, 'output' | 'steps'>

it('is what files are, and may be twice as much where coding decides', () => {
  const files = [file(100, 'encode-in-place'), file(30, 'write-sound'), file(7, 'rewrap', 2)]
  expect(roomFor(files, 200)).toEqual({ free: 200, needed: 137, rough: 2 })
  expect(roomFor([file(50, 'rewrap', null)], 60)).toEqual({ free: 60, needed: 50, rough: 50 })
})
it('is that of segments beside the file they are joined to, of two at the same time', () => {
  const files = [file(10, 'encode-segment'), file(40, 'take-segment', 4), file(30, 'encode-segment', null)]
  expect(roomFor(files, 0)).toEqual({ free: 0, needed: 80 + 70, rough: 0 + 4 + 30 + 4 + 30 })
})
it('is enough where as much is free as may be needed', () =>
  expect([10, 12, 13].map((free) => enoughRoom({ free, needed: 10, rough: 2 }))).toEqual([false, true, true]))
