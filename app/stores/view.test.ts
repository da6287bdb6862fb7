import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it } from 'vitest'
import { useView } from './view'

beforeEach(() => setActivePinia(createPinia()))

function laid(length: number, place: { top: number; zoom: number } | null = null) {
  const view = useView()
  view.lay(length, 1, place)
  view.resize(760)
  return view
}

it('fills the height with a short timeline, and opens a long one at its beginning', () => {
  expect(laid(140)).toMatchObject({ zoom: 5, top: -4 })
  expect(laid(90_000)).toMatchObject({ zoom: 1.4, top: 0 })
  expect(laid(10).zoom).toBe(24)
})

it('leaves what somebody chose, also when the window is made larger', () => {
  const view = laid(140, { top: 20, zoom: 3 })
  expect(view).toMatchObject({ zoom: 3, top: 20 })
  view.fit()
  view.zoomAt(2, 100)
  const { top, zoom } = view
  view.resize(900)
  expect(view).toMatchObject({ top, zoom })
})

it('zooms about what is pointed at, within limits', () => {
  const view = laid(90_000, { top: 1000, zoom: 2 })
  view.zoomAt(2, 300)
  expect(view.zoom).toBe(4)
  expect(view.top + 300 / view.zoom).toBe(1150)
  view.zoomAt(1e6, 0)
  expect(view.zoom).toBe(24)
  view.zoomAt(1e-9, 0)
  expect(view.zoom).toBe(700 / 90_000)
  view.fit()
  const y = () => (45_000 - view.top) * view.zoom
  const before = y()
  view.zoomAbout(2, 45_000)
  expect(y()).toBeCloseTo(before, 6)
  // what is out of view is not gone to
  view.moveTo(30_000)
  const middle = (view.window.in + view.window.out) / 2
  view.zoomAbout(2, 100)
  expect((view.window.in + view.window.out) / 2).toBeCloseTo(middle, 6)
})

it('shows a range with room around it, and what is in view is told', () => {
  const view = laid(90_000)
  view.show({ in: 5000, out: 5350 })
  expect(view).toMatchObject({ zoom: 2, top: 4990 })
  expect(view.window).toEqual({ in: 4990, out: 5370 })
  view.fit()
  expect(view.window).toEqual({ in: 0, out: 90_000 })
})

it('never leaves the timeline, and brings a frame into view only where it is not', () => {
  const view = laid(90_000)
  view.moveTo(-500)
  expect(view.top).toBe(-20 / 1.4)
  view.moveTo(1e9)
  expect(view.top).toBe(90_000 - 700 / 1.4)
  view.moveTo(1000)
  view.reveal(1200)
  expect(view.top).toBe(1000)
  view.reveal(50_000)
  expect(view.window.in).toBeLessThan(50_000)
  expect(view.window.out).toBeGreaterThan(50_000)
  view.centre(20_000)
  expect((view.window.in + view.window.out) / 2).toBeCloseTo(20_000, 6)
})
