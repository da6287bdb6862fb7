import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { ShownTimeline } from '../contract/timelines'
import { isLookedAt } from '../core/split/region'
import { application, ask, page, pageOfApplication, served } from './browser'
import { makeScenes, type SceneShot } from './scenes'

// A season on one timeline, by keyboard alone: ten episodes with line-up, breaks and end boards become named and
// looked-through regions with their parts, and follow a version that was cut anew.

const [lineUp, black]: SceneShot[] = [
  [-99, 0, 75],
  [0, 0, 50],
]
/** An episode of two parts of two shots each, with a break between and an end board; the first shot may be trimmed. */
const episode = (e: number, trimmed = 0): SceneShot[] => [
  [e * 4 + 1, trimmed, 50 - trimmed],
  [e * 4 + 2, 0, 40],
  [0, 0, 15],
  [e * 4 + 3, 0, 50],
  [e * 4 + 4, 0, 40],
  [-50, 0, 30],
  black!,
]
const ten = Array.from({ length: 10 }, (_, e) => e)
const { folder } = application(async () => {
  const storage = path.join(folder, 'storage')
  mkdirSync(storage, { recursive: true })
  await makeScenes(path.join(storage, 'Ferry_v1.mov'), [lineUp!, black!, ...ten.flatMap((e) => episode(e))])
  // the third begins later, the seventh comes after the eighth
  const order = ten.map((e) => (e === 6 ? 7 : e === 7 ? 6 : e))
  await makeScenes(path.join(storage, 'Ferry_v2.mov'), [
    lineUp!,
    black!,
    ...order.flatMap((e) => episode(e, e === 2 ? 8 : 0)),
  ])
})
pageOfApplication()

const read = async (name: string) => (await ask<ShownTimeline[]>('timelines')).find((t) => t.name === name)!
const regions = async (name: string) => (await read(name)).split.regions
/** Keys that were pressed; a line of text counts as one. */
let pressed = 0
async function press(...keys: readonly string[]) {
  for (const key of keys) {
    pressed++
    await page.keyboard.press(key)
  }
}
async function type(text: string) {
  pressed++
  await page.keyboard.type(text)
}
/** In the panel of ways: the way, its two lengths, the pattern of names. */
async function split(way: string, least: string, shortest: string, names: string) {
  await press('s')
  await page.locator('[role=radio][aria-checked=true]:focus').waitFor()
  for (let n = 0; n < 20; n++) {
    if ((await page.locator('[role=radio]:focus').innerText()) === way) break
    await press('ArrowDown')
  }
  for (const text of [least, shortest, names]) {
    await press('Tab', 'Control+a')
    await type(text)
  }
  await press('Enter')
}

it('becomes ten episodes and their parts', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'Ferry_v1.mov' }, show: 'The Ferry' })
  await page.goto(`${served.url}/desk`)
  await page.locator('#strip').waitFor()
  await expect.poll(async () => (await read('Ferry_v1')).analysis.pictures !== null).toBe(true)
  await expect.poll(async () => (await read('Ferry_v1')).analysis.sound !== null).toBe(true)
  await page.locator('.pass').waitFor({ state: 'detached' })
  await split('at black with silence', '1s', '5s', 'Ferry {number}')
  await expect.poll(async () => (await regions('Ferry_v1')).length).toBe(10)
  const begins = ten.map((e) => 125 + e * 275)
  expect((await regions('Ferry_v1')).map((r) => [r.name, r.in, r.out])).toEqual(
    begins.map((at, e) => [`Ferry ${String(e + 1).padStart(2, '0')}`, at, at + 225]),
  )
})

it('has its parts within them, and every end looked at', async () => {
  await split('at black with silence', '0.5s', '3.5s', 'Part {number}')
  await expect.poll(async () => (await regions('Ferry_v1')).length).toBe(30)
  // an episode that holds its parts overlaps nothing
  await page.locator('.audit', { hasText: 'overlap' }).waitFor({ state: 'detached' })
  await press('3')
  await page.getByText('0 of 30 regions looked at').waitFor()
  await press('Home', ...Array.from({ length: 30 }, () => 'Enter'))
  await page.getByText('30 of 30 regions looked at').waitFor()
  await expect.poll(async () => (await regions('Ferry_v1')).every(isLookedAt)).toBe(true)
  // at two keys a second that is less than a minute
  expect(pressed).toBeLessThan(100)
})

it('is followed into a version that was cut anew', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'Ferry_v2.mov' }, show: 'The Ferry' })
  await expect.poll(async () => (await read('Ferry_v2')).analysis.pictures !== null).toBe(true)
  pressed = 0
  await press('Control+k')
  await type('Ferry_v2')
  await press('Enter', '1')
  await expect
    .poll(() => page.locator('header select, nav select').first().inputValue())
    .toBe((await read('Ferry_v2')).id)
  await press('s')
  await page.locator('[role=radio][aria-checked=true]:focus').waitFor()
  for (let n = 0; n < 20; n++) {
    if ((await page.locator('[role=radio]:focus').innerText()) === 'regions of an older version') break
    await press('ArrowDown')
  }
  await expect.poll(async () => page.locator('.proposal').count()).toBeGreaterThan(8)
  await press('Enter')
  await expect.poll(async () => (await regions('Ferry_v2')).length).toBe(30)
  const where = new Map((await regions('Ferry_v2')).map((r) => [r.name, [r.in, r.out]]))
  const at = (e: number, trimmed = 0) => [125 + e * 275 - trimmed, 125 + e * 275 + 225 - trimmed]
  expect([where.get('Ferry 02'), where.get('Ferry 04')]).toEqual([at(1), at(3, 8)])
  // the third begins later in its own shot, the seventh and the eighth changed places
  expect(where.get('Ferry 03')).toEqual([at(2)[0], at(2, 8)[1]])
  expect([where.get('Ferry 07'), where.get('Ferry 08')]).toEqual([at(7, 8), at(6, 8)])
  expect(pressed).toBeLessThan(60)
})
