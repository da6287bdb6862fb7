import { beforeEach, expect, it, vi } from 'vitest'
import { Player, type PlayerOrder, type PlayerWord } from './player'

/** The worker's side, by hand. */
let orders: PlayerOrder[] = []
let say: (word: PlayerWord) => void
let came: number[] = []
let closed = 0
let player: Player
const picture = () => ({ close: () => closed++ }) as unknown as ImageBitmap

beforeEach(() => {
  ;[orders, came, closed] = [[], [], 0]
  vi.stubGlobal('location', { href: 'http://here/' })
  vi.stubGlobal(
    'Worker',
    class {
      onmessage = (_: { data: PlayerWord }) => undefined
      constructor() {
        say = (data) => this.onmessage({ data })
      }
      postMessage = (order: PlayerOrder) => orders.push(order)
      terminate = () => undefined
    },
  )
  player = new Player(
    '/media',
    () => undefined,
    (frame) => came.push(frame),
  )
  say({ is: 'open', playable: true, frames: 100 })
})

/** Answers what was asked last with all its stills. */
function answer() {
  const order = orders.at(-1)!
  if (order.do !== 'hold') throw new Error('No pictures were asked for.')
  for (let frame = order.from; frame < order.to; frame++)
    say({ is: 'still', turn: order.turn, frame, picture: picture() })
  say({ is: 'over', turn: order.turn })
}
const asked = () => orders.flatMap((o) => (o.do === 'hold' ? [[o.from, o.to]] : []))

it('holds the stretch of the playhead, then the nearer side, then the other, within the file', () => {
  player.hold(30, 512)
  answer()
  answer()
  answer()
  expect(asked()).toEqual([
    [24, 48],
    [0, 24],
    [48, 72],
  ])
  expect(came).toHaveLength(72)
  player.hold(90, 512)
  answer()
  expect(asked().slice(3, 5)).toEqual([
    [72, 96],
    [96, 100],
  ])
})

it('asks for nothing again while the playhead moves where pictures are on their way', () => {
  player.hold(30, 512)
  player.hold(31, 512)
  player.hold(40, 512)
  expect(asked()).toEqual([[24, 48]])
  expect([player.holds(24), player.holds(47), player.holds(48)]).toEqual([true, true, false])
})

it('turns to where the playhead has gone, and takes nothing that comes late', () => {
  player.hold(30, 512)
  const late = orders.at(-1)!
  player.hold(80, 512)
  expect(asked()).toEqual([
    [24, 48],
    [72, 96],
  ])
  say({ is: 'still', turn: (late as { turn: number }).turn, frame: 30, picture: picture() })
  expect([player.still(30), closed]).toEqual([null, 1])
})

it('lets pictures far from the playhead go, and all when they are wanted larger', () => {
  player.hold(12, 512)
  answer()
  expect(player.still(23)).not.toBeNull()
  player.hold(90, 512)
  expect([player.still(23), closed]).toEqual([null, 24])
  answer()
  player.hold(91, 1024)
  expect([player.still(90), closed]).toEqual([null, 48])
  expect(asked().at(-1)).toEqual([72, 96])
})

it('goes on after playing, which takes the turn', () => {
  player.hold(30, 512)
  player.play(30, 1)
  expect(player.holds(30)).toBe(false)
  player.stop()
  player.hold(30, 512)
  expect(asked()).toEqual([
    [24, 48],
    [24, 48],
  ])
})
