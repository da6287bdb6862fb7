import { expect, it } from 'vitest'
import { drawWhole, takenLines, wholeFrame, wholeY, type WholeContent } from './whole'

/** What was filled, as colour, x, top and bottom. */
function drawn(content: Partial<WholeContent>, height = 500) {
  const list: { colour: string; x: number; from: number; to: number }[] = []
  const g = {
    fillStyle: '',
    globalAlpha: 1,
    clearRect: () => undefined,
    fillRect(x: number, y: number, _: number, h: number) {
      list.push({ colour: this.fillStyle, x, from: y, to: y + h })
    },
  }
  const nothing = { regions: [], selected: [], loudness: null, marks: [], playhead: 0 }
  const palette = { quiet: 'quiet', crane: 'crane', red: 'red', text: 'text' }
  drawWhole(g as never, height, { length: 1000, ...nothing, window: { in: 0, out: 1000 }, ...content }, palette)
  return list
}

it('has the first frame at its top and the last at its foot', () => {
  expect([wholeY(0, 1000, 500), wholeY(1000, 1000, 500)]).toEqual([0, 500])
  expect([wholeFrame(0, 1000, 500), wholeFrame(250, 1000, 500), wholeFrame(9999, 1000, 500)]).toEqual([0, 500, 999])
})

it('draws regions to scale, the selected one over others', () => {
  const ranges = [
    { in: 0, out: 400 },
    { in: 400, out: 401 },
  ]
  const regions = takenLines(ranges, 1000, 500)
  const bars = drawn({ regions, selected: [ranges[0]!] }).filter((b) => b.x === 9)
  expect(bars).toEqual([
    { colour: 'quiet', x: 9, from: 0, to: 199 },
    { colour: 'quiet', x: 9, from: 200, to: 201.5 },
    { colour: 'crane', x: 9, from: 0, to: 199 },
  ])
})

it('takes regions together that leave no line between them, and keeps gaps that can be seen', () => {
  const many = Array.from({ length: 2000 }, (_, i) => ({ in: i * 10, out: i * 10 + 10 }))
  expect(takenLines(many, 20_000, 500)).toEqual([{ top: 0, height: expect.closeTo(501.25, 6) }])
  // one that holds others, then one apart
  const nested = [
    { in: 0, out: 500 },
    { in: 100, out: 200 },
    { in: 900, out: 1000 },
  ]
  expect(takenLines(nested, 1000, 500)).toEqual([
    { top: 0, height: 249 },
    { top: 450, height: 49 },
  ])
})

it('shows a fault of one frame in an hour, and what is in view', () => {
  const hour = drawn({
    length: 90_000,
    marks: takenLines([{ in: 45_000, out: 45_001 }], 90_000, 500).map((lines) => ({ ...lines, colour: 'red' })),
    window: { in: 9000, out: 9100 },
    playhead: 89_999,
  })
  expect(hour.find((b) => b.colour === 'red')).toEqual({ colour: 'red', x: 0, from: 250, to: 251.5 })
  const [view] = hour.filter((b) => b.colour === 'text')
  expect([view!.from, view!.to]).toEqual([50, 54])
  expect(hour.at(-1)).toMatchObject({ colour: 'red', from: 500 })
})

it('draws the loudest of what a line stands for, and nothing for silence', () => {
  const list = Array.from({ length: 5000 }, (_, i) => (i < 2500 ? null : i % 10 ? -40 : 0))
  const lines = drawn({ loudness: list }).filter((b) => b.colour === 'crane')
  expect(lines).toHaveLength(250)
  expect(lines[0]).toMatchObject({ x: 0, from: 250 })
})
