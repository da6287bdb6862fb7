import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { DeliverableList } from '../contract/live'
import type { ShownTimeline } from '../contract/timelines'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel } from './fixtures'

// A programme of two parts for a broadcaster who wants black between them: set at its outlet, seen before the night.

const { folder } = application(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  await smallReel(path.join(folder, 'storage', 'reel.mov'), { bitrate: 500_000 })
})
pageOfApplication()

const list = async () => (await ask<DeliverableList>('deliverables')).list

it('is delivered whole until breaks are set for it', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const [t] = await ask<ShownTimeline[]>('timelines')
  const region = (id: string, from: number, to: number, kind: string) => ({
    ...{ id, name: id, in: from, out: to, metadata: {}, kind },
  })
  const regions = [
    region('Fog Bell', 0, 120, 'programme'),
    region('one', 0, 50, 'part'),
    region('two', 60, 110, 'part'),
  ]
  const body = { patch: { regions, markers: [], removed: [] }, version: t!.splitVersion }
  await ask(`timelines/${t!.id}/split`, 'PATCH', body)
  const house = outlet('House', 'storage', recipe('broadcast', { lineUp: -18 }), { spec: 'northmere' })
  await ask('outlets', 'PUT', house)
  const key = { timelineId: t!.id, regionId: 'Fog Bell', outletId: 'House' }
  await ask('deliverables', 'POST', { action: 'choose', keys: [key], chosen: true })
  expect((await list()).map((d) => d.length)).toEqual(['0:00:34:20'])
})

it('is in parts as soon as they are', async () => {
  await page.goto(`${served.url}/outlets`)
  await page.locator('td.on').click()
  await page.getByLabel('Breaks between parts').fill('2')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await list()).map((d) => d.length)).toEqual(['0:00:36:00'])
  await expect.poll(() => page.getByLabel('Breaks between parts').inputValue()).toBe('2 s of black')
})

it('shows each part, and what is between them, before the night', async () => {
  await page.getByRole('link', { name: /^Checks/ }).click()
  await page.getByRole('button', { name: /^Line-up, Fog Bell → House/ }).click()
  const sections = () =>
    page.locator('.detail ol li').evaluateAll((all) => all.map((li) => (li as HTMLElement).innerText.split('\n')))
  // the reel begins at 10:00:59:00
  await expect.poll(sections).toEqual([
    ['10:00:29:00', 'bars and tone', '00:00:20:00'],
    ['10:00:49:00', 'clock', '00:00:07:00'],
    ['10:00:56:00', 'black', '00:00:03:00'],
    ['10:00:59:00', 'part 1', '00:00:02:00'],
    ['10:01:01:00', 'break', '00:00:02:00'],
    ['10:01:03:00', 'part 2', '00:00:02:00'],
  ])
  const drawn = () =>
    page.locator('.detail ol img').evaluateAll((all) => all.every((i) => (i as HTMLImageElement).naturalWidth > 0))
  await expect.poll(drawn).toBe(true)
})
