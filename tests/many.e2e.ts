import { renameSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { ShownTimeline } from '../contract/timelines'
import { shippedRecipes } from '../core/recipe/registry'
import { application, ask, page, pageOfApplication, served } from './browser'
import { smallReel } from './fixtures'

// Hundreds of regions for two outlets: stations keep only what is in view in the page, and reach the rest.

const count = 300
const outlets = ['north', 'south']
const { storage } = application(async () => {
  await smallReel(path.join(storage, 'reel.mov'))
})
pageOfApplication()

it('has three hundred regions for two outlets', async () => {
  const t = await ask<ShownTimeline>('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const list = Array.from({ length: count }, (_, i) => ({ id: `r${i}`, name: `Part ${i + 1}`, in: i % 50, out: 60 }))
  const regions = list.map((r) => ({ ...r, metadata: {} }))
  await ask(`timelines/${t.id}/split`, 'PUT', { split: { regions, markers: [] }, version: t.splitVersion })
  const recipe = shippedRecipes().find((r) => r.kind === 'viewing')!
  for (const id of outlets) {
    const place = { pattern: '{number}_{region}', root: 'storage', folder: id }
    await ask('outlets', 'PUT', { id, name: id, recipe, spec: 'lantern', ...place })
    const keys = regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: id }))
    await ask('deliverables', 'POST', { action: 'choose', keys, chosen: true })
  }
  expect((await ask<{ list: unknown[] }>('deliverables')).list).toHaveLength(count * outlets.length)
})

it('shows Checks of all of them, a few columns at a time', async () => {
  await page.goto(`${served.url}/checks`)
  await page.locator('.cellmark').first().waitFor()
  expect(await page.locator('.column').count()).toBeLessThan(70)
  await page.locator('.grid').evaluate((e) => e.scrollTo(1e6, 0))
  const last = page.getByRole('button', { name: /^Picture codec, .* → south: pass/ }).last()
  await last.waitFor()
  // the outlet’s name stays beside the rules while its columns go by
  const { x } = (await page.locator('.outlet span', { hasText: 'south' }).boundingBox())!
  expect(x).toBeGreaterThan(180)
  expect(x).toBeLessThan(260)
  // columns that are used again show what they stand for now
  const heads = () =>
    page.locator('.grid').evaluate((grid) =>
      [...grid.querySelectorAll<HTMLElement>('.column .head')].map((head) => ({
        title: head.title,
        meant: `${head.innerText.replace(/^\d+\s+/, '')} → south`,
      })),
    )
  await expect.poll(async () => (await heads()).some((head) => head.title === head.meant)).toBe(true)
  const titles = (await heads()).map((head) => head.title)
  expect(new Set(titles).size).toBe(titles.length)
})

it('follows the arrow keys to columns out of view', async () => {
  await page.locator('.grid').evaluate((e) => e.scrollTo(0, 0))
  await page
    .getByRole('button', { name: /^Picture codec, .* → north: pass/ })
    .first()
    .click()
  for (let i = 0; i < 40; i++) await page.keyboard.press('ArrowRight')
  await expect.poll(() => page.locator('.column.hand').count()).toBe(1)
  const [column, grid] = [await page.locator('.column.hand').boundingBox(), await page.locator('.grid').boundingBox()]
  expect(column!.x + column!.width).toBeLessThanOrEqual(grid!.x + grid!.width)
  expect(await page.locator('.grid').evaluate((e) => e.scrollLeft)).toBeGreaterThan(300)
})

it('reaches the last region in Outlets, and takes it off', async () => {
  await page.getByRole('link', { name: /^Outlets/ }).click()
  await page.locator('td.on .name').first().waitFor()
  expect(await page.locator('td.on').count()).toBeLessThan(100)
  await page.locator('.matrix').evaluate((e) => e.scrollTo(0, 1e6))
  const mark = page.getByRole('button', { name: /^Part \d+ to south$/ }).last()
  await mark.waitFor()
  // all rows are as high as the room that is kept for those out of view, also once the last have come
  const heights = () =>
    page.locator('.matrix').evaluate((matrix) => {
      const rows = [...matrix.querySelectorAll('tbody tr:not([style*="px"]:empty)')]
      return [...new Set(rows.map((row) => Math.round(row.getBoundingClientRect().height)))]
    })
  await expect.poll(heights).toEqual([48])
  const below = () => page.locator('.matrix').evaluate((e) => Math.round(e.scrollHeight - e.scrollTop - e.clientHeight))
  await expect.poll(below).toBe(0)
  await mark.press('Enter')
  await expect.poll(async () => (await ask<{ list: unknown[] }>('deliverables')).list.length).toBe(count * 2 - 1)
})

it('lists them all for the night', async () => {
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.locator('.night tbody tr').first().waitFor()
  expect(await page.locator('.night tbody tr').count()).toBeLessThan(100)
  const list = page.locator('.night .list')
  const all = await list.evaluate((e) => e.scrollHeight)
  expect(all).toBeGreaterThan(52 * (count * 2 - 1))
  await list.evaluate((e) => e.scrollTo(0, e.scrollHeight / 2))
  await expect
    .poll(() => list.evaluate((e) => [...e.querySelectorAll('tr')].some((r) => r.getBoundingClientRect().top > 300)))
    .toBe(true)
  // in the middle no gap is in view
  const middle = await list.evaluate(
    (e) => document.elementFromPoint(e.getBoundingClientRect().x + 200, 400)?.textContent,
  )
  expect(middle).toMatch(/\S/)
})

it('says at the Checks within seconds that their media has gone, and that it is back', async () => {
  const reel = path.join(storage, 'reel.mov')
  await page.getByRole('link', { name: /^Checks/ }).click()
  const mark = (verdict: string) =>
    page.getByRole('button', { name: new RegExp(`^Can be made here, .* → north: ${verdict}`) }).first()
  await mark('pass').waitFor()
  renameSync(reel, `${reel}.aside`)
  await mark('fail').click()
  await page.getByText('reel.mov: The file or folder is not there any more').first().waitFor()
  renameSync(`${reel}.aside`, reel)
  await mark('pass').waitFor()
})
