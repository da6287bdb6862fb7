import { expect, it } from 'vitest'
import { Live } from './live'

/** Live with a verdict of our own making: `judge` gives the names that deliverables have just then. */
function liveOf(judge: () => Promise<string>) {
  const situation = () => Promise.resolve({})
  const summaries = async () => new Map([['t/r/o', { path: await judge() }]])
  return new Live(
    null as never,
    null as never,
    { situation } as never,
    { summaries } as never,
    null as never,
    null as never,
  )
}
const pathOf = async (live: Live) => (await live.list()).list.map((d) => d.path)

it('lists what is true when it is asked, also when nothing of ours has changed', async () => {
  let path = 'v01'
  const live = liveOf(() => Promise.resolve(path))
  expect(await pathOf(live)).toEqual(['v01'])
  path = 'v02'
  expect(await pathOf(live)).toEqual(['v02'])
})

it('gives the same list while nothing is different', async () => {
  let path = 'v01'
  const live = liveOf(() => Promise.resolve(path))
  const first = await live.list()
  expect(await live.list()).toBe(first)
  expect(Object.isFrozen(first)).toBe(true)
  path = 'v02'
  expect(await live.list()).not.toBe(first)
})

it('never answers with a judgement that began before it was asked', async () => {
  let path = 'v01'
  let open = () => {}
  const gate = new Promise<void>((resolve) => (open = resolve))
  const live = liveOf(async () => {
    const then = path
    await gate
    return then
  })
  const early = live.refresh()
  await Promise.resolve()
  path = 'v02'
  const late = [live.refresh(), live.refresh()]
  open()
  expect((await early).changed.map((d) => d.path)).toEqual(['v01'])
  for (const changes of await Promise.all(late)) expect(changes.changed.map((d) => d.path)).toEqual(['v02'])
})
