import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import { reelEdl } from '../demo/reel'
import type { ShownTimeline } from '../contract/timelines'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, shot, smallReel } from './fixtures'

// Ways to split, by keyboard: each looked at before it is done, one step to take it back.

const { folder } = application(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  const plan = await smallReel(path.join(folder, 'storage', 'reel.mov'), { bitrate: 500_000 })
  writeFileSync(path.join(folder, 'storage', 'reel.edl'), reelEdl(plan, 'REEL'))
})
pageOfApplication()

/** Regions as the server has them. */
const regions = async () => {
  const [t] = await ask<ShownTimeline[]>('timelines')
  return t!.split.regions.map((r) => [r.name, r.in, r.out])
}
const proposals = () =>
  page
    .locator('.proposal')
    .evaluateAll((list) =>
      list.map((p) => [
        p.querySelector<HTMLInputElement>('input')!.checked,
        p.querySelector<HTMLElement>('.name')!.innerText,
      ]),
    )

it('shows what each way would make before it is done, and does it with Enter', async () => {
  const media = { root: 'storage', path: 'reel.mov' }
  await ask('outlets', 'PUT', outlet('Web', 'storage', recipe('viewing')))
  await ask('timelines', 'POST', { media, cuts: { root: 'storage', path: 'reel.edl' } })
  await page.goto(`${served.url}/desk`)
  await page.locator('#strip').waitFor()
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'each shot', checked: true }).waitFor()
  await expect.poll(async () => (await proposals()).length).toBe(3)
  expect(await regions()).toEqual([])
  await page.keyboard.press('Enter')
  await expect.poll(regions).toEqual([
    ['chainWide', 0, 50],
    ['bell', 50, 90],
    ['gannets', 90, 120],
  ])
  await page.getByRole('region', { name: 'Close-up' }).waitFor()
})

it('names in series, leaves out what is there already or taken out by hand, and is one step to undo', async () => {
  await page.keyboard.press('s')
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('ArrowDown')
  await expect.poll(proposals).toEqual(['chainWide', 'bell', 'gannets'].map((n) => [false, n]))
  await page.getByRole('radio', { name: 'into a number of pieces' }).click()
  const many = page.getByLabel('How many')
  await many.fill('4')
  await many.press('Tab')
  await page.getByLabel('Name pattern').fill('Reel {number} {shot:4}')
  await page.getByLabel('Make region 2').uncheck()
  expect(await proposals()).toEqual([
    [true, 'Reel 01 chai'],
    [false, 'Reel 02 chai'],
    [true, 'Reel 03 bell'],
    [false, 'Reel 04 gann'],
  ])
  await page.getByRole('checkbox', { name: /keep the 3 regions/ }).uncheck()
  await page.getByRole('button', { name: 'Make 3 regions' }).click()
  await expect.poll(regions).toEqual([
    ['Reel 01 chai', 0, 30],
    ['Reel 03 bell', 60, 90],
    ['Reel 04 gann', 90, 120],
  ])
  await page.locator('.head', { hasText: 'Regions' }).click()
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await regions()).length).toBe(3)
  expect((await regions())[0]).toEqual(['chainWide', 0, 50])
})

it('says what cannot be read of a number, and makes nothing of it', async () => {
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'into pieces of one length' }).click()
  const each = page.getByLabel('Each as long as')
  await each.fill('soon')
  await each.press('Enter')
  await page.getByText('“soon” cannot be read. Type 25, 10s, 2min or h:mm:ss:ff.').waitFor()
  expect((await regions()).length).toBe(3)
  await each.fill('1s')
  await each.press('Tab')
  await expect.poll(async () => (await proposals()).length).toBe(5)
})

it('takes lines as they are pasted, and underlines what it does not understand', async () => {
  await page.getByRole('radio', { name: 'typed or pasted lines' }).click()
  await page
    .getByRole('textbox', { name: 'Lines' })
    .fill('The Ferry Almanac\n10:00:59:00 10:01:00:00 Morning Chain\n10:01:00:00 +2s Fog Bell\n10:01:02:30 Low Water')
  await page.getByText('Line 1: there is no time in it').waitFor()
  await page.getByText('Line 4: “10:01:02:30” is no timecode at this rate').waitFor()
  expect(await page.locator('.bad').allInnerTexts()).toEqual(['The Ferry Almanac', '10:01:02:30 Low Water'])
  expect(await proposals()).toEqual([
    [true, 'Morning Chain'],
    [true, 'Fog Bell'],
  ])
  // it is a text field: Enter begins a line there, Ctrl+Enter does it
  await page.getByRole('textbox', { name: 'Lines' }).press('Control+Enter')
  await expect
    .poll(async () => (await regions()).map(([name]) => name))
    .toEqual(['Morning Chain', 'chainWide', 'Fog Bell', 'bell', 'gannets'])
})

it('takes a file of regions with their papers and chapters', async () => {
  await page.locator('.head', { hasText: 'Regions' }).click()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'a file of regions or cuts' }).click()
  const csv =
    'name,in,out,production number,chapters,outlet\n' +
    'Fog Bell,10:01:00:00,10:01:02:00,FA-103,10:01:01:00 The bell,web | Nobody\n'
  await page.getByLabel('File').setInputFiles({ name: 'regions.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) })
  await page.getByRole('checkbox', { name: /keep the 3 regions/ }).uncheck()
  await page.getByRole('button', { name: 'Make 1 region' }).click()
  await expect.poll(regions).toEqual([['Fog Bell', 25, 75]])
  const [t] = await ask<ShownTimeline[]>('timelines')
  expect(t!.split.regions[0]!.metadata).toEqual({ 'production number': 'FA-103' })
  expect(t!.split.markers.map((m) => [m.at, m.name])).toEqual([[50, 'The bell']])
  // it goes where the list sends it, as far as there is such an outlet
  await page.getByText('There is no outlet called “Nobody”.').waitFor()
  await page.locator('.problems').getByRole('button', { name: 'Close' }).click()
  await page.locator('.region .dest', { hasText: 'Web' }).waitFor()
})

it('leaves everything as it was with Escape', async () => {
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'a file of regions or cuts' }).waitFor()
  await page.keyboard.press('Escape')
  await page.getByRole('region', { name: 'Close-up' }).waitFor()
  expect((await regions()).length).toBe(1)
})

it('takes the regions of an older version over, where their shots are now', async () => {
  const list = (events: readonly (readonly [from: string, to: string, at: string, end: string])[]) =>
    `TITLE: CUT\nFCM: NON-DROP FRAME\n${events.map((e, i) => `00${i + 1}  REEL  V  C  ${e.join(' ')}\n`).join('')}`
  const [a, b] = ['10:00:59:00 10:01:00:00', '10:01:01:00 10:01:02:00'].map((t) => t.split(' ') as [string, string])
  const at = (n: number) => `01:00:0${n}:00`
  const cuts = {
    'Cut_v1.edl': list([
      [...a!, at(0), at(1)],
      [...b!, at(1), at(2)],
    ]),
    'Cut_v2.edl': list([
      ['10:01:02:00', '10:01:03:00', at(0), at(1)],
      [...a!, at(1), at(2)],
      [...b!, at(2), at(3)],
    ]),
  }
  for (const [name, text] of Object.entries(cuts)) {
    writeFileSync(path.join(folder, 'storage', name), text)
    await ask('timelines', 'POST', { media: { root: 'storage', path: name }, show: 'Cuts' })
  }
  const of = async (name: string) => (await ask<ShownTimeline[]>('timelines')).find((t) => t.name === name)!
  const older = await of('Cut_v1')
  const regions = [{ id: 'r', name: 'Fog Bell', in: 25, out: 50, metadata: { language: 'en' } }]
  await ask(`timelines/${older.id}/split`, 'PUT', { version: older.splitVersion, split: { regions, markers: [] } })
  await page.getByRole('combobox').first().selectOption({ label: 'Cut_v2' })
  await page.locator('.head', { hasText: 'Regions' }).click()
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'regions of an older version' }).click()
  await page.getByRole('combobox', { name: 'Of' }).selectOption({ label: 'Cut_v1, 1 region' })
  expect(await proposals()).toEqual([[true, 'Fog Bell']])
  await page.locator('.proposal').click()
  await page.locator('.both').getByText('Cut_v1').waitFor()
  expect(await page.locator('.both img').count()).toBeGreaterThan(3)
  await page.getByRole('button', { name: 'Make 1 region' }).click()
  await expect
    .poll(async () => (await of('Cut_v2')).split.regions)
    .toMatchObject([{ name: 'Fog Bell', in: 50, out: 75, metadata: { language: 'en' } }])
})

it('follows the pictures themselves where a version has no list', async () => {
  const shots = [shot('chainWide', 50), shot('bell', 40), shot('gannets', 30)]
  await smallReel(path.join(folder, 'storage', 'flat_v1.mov'), { shots })
  await smallReel(path.join(folder, 'storage', 'flat_v2.mov'), { shots: [shots[2]!, ...shots], bitrate: 600_000 })
  for (const name of ['flat_v1.mov', 'flat_v2.mov'])
    await ask('timelines', 'POST', { media: { root: 'storage', path: name }, show: 'Flat' })
  const of = async (name: string) => (await ask<ShownTimeline[]>('timelines')).find((t) => t.name === name)!
  const older = await of('flat_v1')
  const regions = [{ id: 'f', name: 'Bell', in: 50, out: 90, metadata: {} }]
  await ask(`timelines/${older.id}/split`, 'PUT', { version: older.splitVersion, split: { regions, markers: [] } })
  await page.getByRole('combobox').first().selectOption({ label: 'flat_v2' })
  await page.locator('.head', { hasText: 'Regions' }).click()
  await page.keyboard.press('s')
  await page.getByRole('radio', { name: 'regions of an older version' }).click()
  await page.getByRole('combobox', { name: 'Of' }).selectOption({ label: 'flat_v1, 1 region' })
  await page.getByText('regions follow what is seen').waitFor()
  await expect.poll(proposals).toEqual([[true, 'Bell']])
  await page.getByRole('button', { name: 'Make 1 region' }).click()
  await expect.poll(async () => (await of('flat_v2')).split.regions).toMatchObject([{ name: 'Bell', in: 80, out: 120 }])
})
