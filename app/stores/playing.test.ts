import { createPinia, setActivePinia } from 'pinia'
import { nextTick } from 'vue'
import { beforeEach, expect, it, vi } from 'vitest'
import { makeRate } from '../../core/time/rate'
import type { ShownTimeline } from '../../contract/timelines'
import { useEditor } from './editor'
import { usePlaying } from './playing'

beforeEach(() => {
  setActivePinia(createPinia())
  vi.stubGlobal('localStorage', { getItem: () => null })
  vi.stubGlobal('sessionStorage', { getItem: () => null })
  const regions = [
    { id: 'a', name: 'a', in: 50, out: 100, metadata: {} },
    { id: 'b', name: 'b', in: 180, out: 300, metadata: {} },
  ]
  const counted = { rate: makeRate(25), dropFrame: false, start: 0, length: 300 }
  const model = { ...counted, name: 'Reel', tracks: [], events: [], markers: [] }
  const split = { regions, markers: [] }
  useEditor().lay({ id: 't', name: 'Reel', model, split, splitVersion: 1 } as unknown as ShownTimeline)
  useEditor().select('a')
})

it('plays around the nearest edge, a region, and regions one after the other', async () => {
  const [desk, playing] = [useEditor(), usePlaying()]
  desk.go(95)
  playing.around()
  await nextTick()
  expect([desk.playhead, playing.speed, playing.stretches]).toEqual([75, 1, [{ in: 75, out: 125 }]])
  playing.playedOne()
  expect([desk.playhead, playing.speed]).toEqual([124, 0])
  playing.regions(true)
  await nextTick()
  expect([desk.playhead, playing.stretches.length, playing.end]).toEqual([50, 2, 100])
  playing.again()
  expect(playing.speed).toBe(0)
  await nextTick()
  expect([playing.speed, playing.stretches.length]).toEqual([1, 2])
  playing.playedOne()
  await nextTick()
  expect([desk.playhead, playing.stretches.length, playing.speed]).toEqual([180, 1, 1])
  playing.playedOne()
  expect([desk.playhead, playing.speed]).toEqual([299, 0])
})

it('shuttles twice as fast each time, up to 8 ×, and turns round at normal speed', () => {
  const playing = usePlaying()
  const speeds = [1, 1, 1, 1, 1, -1, -1, 1].map((direction) => {
    playing.shuttle(direction as 1 | -1)
    return playing.speed
  })
  expect(speeds).toEqual([1, 2, 4, 8, 8, -1, -2, 1])
})
