import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { DeliverableList } from '../contract/live'
import type { ShownTimeline } from '../contract/timelines'
import { reelEdl } from '../demo/reel'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel } from './fixtures'

// The same regions as a table, when there is more to type than to look at; and by the pictures at their ends.

const { folder } = application(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  const plan = await smallReel(path.join(folder, 'storage', 'reel.mov'), { bitrate: 500_000 })
  writeFileSync(path.join(folder, 'storage', 'reel.edl'), reelEdl(plan, 'REEL'))
})
pageOfApplication()

const timeline = async () => (await ask<ShownTimeline[]>('timelines'))[0]!
const names = async () => (await timeline()).split.regions.map((r) => r.name)
const shown = () => page.locator('[data-row]').evaluateAll((list) => list.map((l) => l.querySelector('input')?.value))

it('shows regions as a table, sorted and filtered', async () => {
  const media = { root: 'storage', path: 'reel.mov' }
  await ask('outlets', 'PUT', outlet('Web', 'storage', recipe('viewing')))
  await ask('timelines', 'POST', { media, cuts: { root: 'storage', path: 'reel.edl' } })
  await page.goto(`${served.url}/desk`)
  await page.locator('#strip').waitFor()
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'each shot' }).waitFor()
  await page.keyboard.press('Enter')
  await page.getByRole('region', { name: 'Close-up' }).waitFor()
  await page.keyboard.press('2')
  await page.getByRole('region', { name: 'Region table' }).waitFor()
  expect(await shown()).toEqual(['chainWide', 'bell', 'gannets'])
  await page.getByRole('button', { name: 'Name', exact: true }).click()
  expect(await shown()).toEqual(['bell', 'chainWide', 'gannets'])
  await page.getByRole('button', { name: /^Length/ }).click()
  await page.getByRole('button', { name: /^Length/ }).click()
  expect(await shown()).toEqual(['chainWide', 'bell', 'gannets'])
  await page.keyboard.press('/')
  await page.keyboard.type('NN')
  await expect.poll(shown).toEqual(['gannets'])
  await page.getByText('1 of 3').waitFor()
  await page.getByRole('button', { name: 'show all' }).click()
  await page.getByLabel('Filter by outlet').selectOption('Web')
  await page.getByText('No region is like that.').waitFor()
  await page.getByLabel('Filter by outlet').selectOption('')
  await page.getByRole('button', { name: /^No/ }).click()
})

it('takes no key of the strip: Enter types the name of the row in hand', async () => {
  await page.locator('[data-row] .no').nth(1).click()
  await page.keyboard.press('Enter')
  await expect.poll(() => page.evaluate(() => (document.activeElement as HTMLInputElement).value)).toBe('bell')
  await page.keyboard.press('Escape')
  await page.locator('[data-row] .no').nth(1).click()
  for (const key of ['i', 'o', 't', 'c', '\\']) await page.keyboard.press(key)
  expect([await names(), (await timeline()).split.markers.length]).toEqual([['chainWide', 'bell', 'gannets'], 0])
})

it('takes papers row by row with Enter', async () => {
  const field = (row: number) => page.locator(`[data-row="${row}"] [data-column="production number"]`)
  await field(0).fill('FA-1')
  await field(0).press('Enter')
  await expect.poll(() => field(1).evaluate((f) => f === document.activeElement)).toBe(true)
  await page.keyboard.type('FA-2')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await timeline()).split.regions.map((r) => r.metadata['production number']))
    .toEqual(['FA-1', 'FA-2', undefined])
})

it('changes several at once: seen first, then done, then taken back in one step', async () => {
  await page.locator('[data-row] .no').nth(0).click()
  await page
    .locator('[data-row] .no')
    .nth(1)
    .click({ modifiers: ['Shift'] })
  await page.getByRole('radio', { name: 'name in series' }).click()
  await page.getByLabel('Name pattern').fill('Film {number}')
  expect(await page.locator('[data-row] .new').allInnerTexts()).toEqual(['Film 01', 'Film 02'])
  expect(await names()).toEqual(['chainWide', 'bell', 'gannets'])
  await page.getByRole('button', { name: 'Change 2 regions' }).click()
  await expect.poll(names).toEqual(['Film 01', 'Film 02', 'gannets'])
  await page.getByRole('button', { name: 'undo “name in series: 2 regions”' }).click()
  await expect.poll(names).toEqual(['chainWide', 'bell', 'gannets'])
})

it('takes papers from an XML file, and says which region of it is not there', async () => {
  const papers = (name: string) =>
    `<papers><region><name>${name}</name><field><name>language</name><value>eng</value></field></region></papers>`
  await page.getByRole('radio', { name: 'papers from XML' }).click()
  await page.getByLabel('Papers as XML').fill(papers('belt'))
  await page.getByText('No region is called “belt”.').waitFor()
  const file = { name: 'papers.xml', mimeType: 'application/xml', buffer: Buffer.from(papers('Bell')) }
  await page.locator('.change input[type=file]').setInputFiles(file)
  await page.getByRole('button', { name: 'Change 1 region' }).click()
  const languages = async () => (await timeline()).split.regions.map((r) => r.metadata.language)
  await expect.poll(languages).toEqual([undefined, 'eng', undefined])
  await page.getByRole('button', { name: 'undo “papers from XML: 1 region”' }).click()
  await expect.poll(languages).toEqual([undefined, undefined, undefined])
})

it('sends several to an outlet', async () => {
  await page.getByRole('checkbox', { name: /^Web/ }).check()
  const going = async () => (await ask<DeliverableList>('deliverables')).list.map((d) => d.regionId)
  await expect.poll(async () => (await going()).length).toBe(2)
  await page.locator('[data-row] .dest', { hasText: 'Web' }).nth(1).waitFor()
})

it('looks through the ends of all regions by keyboard, and remembers it until one moves', async () => {
  await page.locator('.head', { hasText: 'Regions' }).click({ position: { x: 5, y: 5 } })
  await page.keyboard.press('3')
  const sheet = page.getByRole('region', { name: 'Edges', exact: true })
  await sheet.getByText('0 of 3 regions looked at').waitFor()
  await page.keyboard.press('Home')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Enter')
  await sheet.getByText('2 of 3 regions looked at').waitFor()
  expect(await page.locator('.ends.chosen input').first().inputValue()).toBe('gannets')
  // a frame earlier, and looked at again
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('Shift+ArrowLeft')
  await sheet.getByText('1 of 3 regions looked at').waitFor()
  await expect.poll(async () => (await timeline()).split.regions[1]!.out).toBe(89)
  await page.keyboard.press('Enter')
  await sheet.getByText('2 of 3 regions looked at').waitFor()
  await page.getByText('saving …').waitFor({ state: 'hidden' })
  await page.reload()
  await page.locator('#strip').waitFor()
  await page.keyboard.press('3')
  await sheet.getByText('2 of 3 regions looked at').waitFor()
  await page.getByRole('checkbox', { name: 'only what is left' }).check()
  await expect.poll(() => page.locator('.ends').count()).toBe(1)
  await page.keyboard.press('1')
  await expect.poll(() => page.locator('.region', { hasText: 'ends ✓' }).count()).toBe(2)
})

it('says before a night whose ends nobody has looked at, and leads there', async () => {
  await page.keyboard.press('3')
  await page.getByRole('checkbox', { name: 'only what is left' }).uncheck()
  await page.keyboard.press('Home')
  await page.keyboard.press('Backspace')
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.getByText('The ends of 1 region of reel were not looked at.').waitFor()
  await page.getByRole('button', { name: 'Look through them' }).click()
  await page.getByRole('region', { name: 'Edges', exact: true }).waitFor()
})

it('accepts a fault with a reason, takes it back, and jumps among the steps', async () => {
  await page.getByRole('button', { name: /^Audit/ }).click()
  const sheet = page.locator('[aria-label="Audit"]')
  await sheet.getByText('“bell” ends 1 frame before the cut').waitFor()
  await sheet.getByRole('button', { name: 'accept', exact: true }).first().click()
  await sheet.getByLabel('Reason').fill('the bell fades')
  await sheet.getByLabel('Initials').fill('QP')
  await sheet.getByRole('button', { name: 'Accept', exact: true }).click()
  await page.getByRole('button', { name: '1 accepted' }).waitFor()
  await expect.poll(async () => (await timeline()).split.accepted?.map((a) => a.reason)).toEqual(['the bell fades'])
  await page.getByText('saving …').waitFor({ state: 'hidden' })
  await page.reload()
  await page.getByRole('button', { name: '1 accepted' }).click()
  await sheet.getByText('QP: the bell fades').waitFor()
  await sheet.getByRole('button', { name: 'take back' }).click()
  await sheet.getByText('“bell” ends 1 frame before the cut').waitFor()
  await page.getByRole('button', { name: /^Audit/ }).click()
  await page.getByRole('button', { name: /^steps/ }).click()
  await page.locator('.steps').getByRole('button', { name: 'made 3 regions' }).click()
  await expect.poll(names).toEqual([])
  await page.getByRole('button', { name: /^steps/ }).click()
  await page.locator('.steps').getByRole('button', { name: 'no longer accepted 1 fault' }).click()
  await expect.poll(names).toEqual(['chainWide', 'bell', 'gannets'])
})

it('says what regions are, and outlets ask for it: what is asked for is sent, what is not is held back', async () => {
  await page.keyboard.press('2')
  await page.locator('[data-row] .no').nth(0).click()
  await page
    .locator('[data-row] .no')
    .nth(1)
    .click({ modifiers: ['Shift'] })
  await page.getByLabel('Kind of region').nth(1).selectOption('promo')
  const kinds = async () => (await timeline()).split.regions.map((r) => r.kind)
  await expect.poll(kinds).toEqual(['promo', 'promo', undefined])
  await page.getByLabel('Filter by kind').selectOption('none')
  await expect.poll(shown).toHaveLength(1)
  await page.getByRole('button', { name: 'show all' }).click()
  const archive = outlet('Archive', 'storage', recipe('viewing'), { kinds: ['promo'] })
  await ask('outlets', 'PUT', archive)
  const key = { timelineId: (await timeline()).id, regionId: (await timeline()).split.regions[2]!.id }
  await ask('deliverables', 'POST', { action: 'choose', keys: [{ ...key, outletId: 'Archive' }], chosen: true })
  await page.goto(`${served.url}/outlets`)
  await page.getByRole('button', { name: 'send 2 it asks for' }).click()
  const sent = async () => (await ask<DeliverableList>('deliverables')).list.filter((d) => d.outletId === 'Archive')
  await expect.poll(async () => (await sent()).length).toBe(3)
  const held = async () => (await sent()).map((d) => d.trouble.some((x) => x.rule === 'outlet-kind' && x.blocks))
  expect(await held()).toEqual([false, false, true])
  await page.getByRole('button', { name: 'send 2 it asks for' }).waitFor({ state: 'detached' })
  // the checks say so, and take a reason
  await page.goto(`${served.url}/checks`)
  await page.getByRole('button', { name: /^Kind of region, .* → Archive: fail$/ }).click()
  await page.getByText('promos', { exact: false }).first().waitFor()
  await page.getByPlaceholder(/reason|why/i).fill('asked for by telephone')
  await page.getByPlaceholder('initials').fill('QP')
  await page.getByRole('button', { name: /waive|accept/i }).click()
  await page.getByRole('button', { name: /^Kind of region, .* → Archive: waived$/ }).waitFor()
})
