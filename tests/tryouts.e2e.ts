import { mkdirSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { expect, it } from 'vitest'
import type { DeliverableSummary } from '../contract/deliverables'
import type { SplitTimeline } from '../core/split/timeline'
import { application, ask, page, pageOfApplication, served } from './browser'
import { readCounter } from '../demo/reel'
import { outlet, recipe, smallReel } from './fixtures'

// Settings tried through the interface: made on a stretch, compared, and one of them taken.

const { storage } = application(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { bitrate: 8_000_000 })
})
pageOfApplication()

/** The frame number in the picture that is shown. */
async function counterShown(): Promise<number | null> {
  const src = await page.locator('.frame img[data-shown=true]').getAttribute('src')
  const png = Buffer.from(await (await fetch(served.url + src!)).arrayBuffer())
  const { data, info } = await sharp(png).greyscale().raw().toBuffer({ resolveWithObject: true })
  return readCounter(new Uint8Array(data), info.width)
}
const figures = async (name: string) => {
  const cells = page.locator(`xpath=//div[normalize-space()="${name}"]/following-sibling::div[position() <= 2]`)
  return (await cells.allInnerTexts()).map((t) => Number.parseFloat(t))
}

it('makes a stretch as it is, and with half the bits', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const [t] = await ask<SplitTimeline[]>('timelines')
  const regions = [{ id: 'a', name: 'Fog Bell', in: 20, out: 110, metadata: {} }]
  await ask(`timelines/${t!.id}/split`, 'PUT', { split: { regions, markers: [] }, version: 1 })
  const r = recipe('viewing', { width: null, height: null, channels: [1, 2], pictureBitrate: 3000 })
  await ask('outlets', 'PUT', outlet('Screening', 'storage', r))
  await ask('outlets', 'PUT', outlet('Sound', 'storage', recipe('sound')))
  await page.goto(`${served.url}/outlets`)
  for (const n of [0, 1]) await page.getByLabel('all regions').nth(n).check()
  await page.getByText('01_Fog_Bell.wav').first().click()
  await page.getByText('see its checks').waitFor()
  expect(await page.getByRole('button', { name: 'Try settings' }).count()).toBe(0)
  await page.getByText('01_Fog_Bell.mp4').first().click()
  await page.getByRole('button', { name: 'Try settings' }).click()
  await page.getByText('Fog Bell for Screening').waitFor()
  expect(await page.getByLabel('Picture bit rate of B').inputValue()).toBe('1500 kbit/s')
})

it('compares both, picture by picture', async () => {
  await expect.poll(() => page.getByText('made', { exact: true }).count()).toBe(2)
  const [fine, poor] = await figures('Luma')
  expect(fine! - poor!).toBeGreaterThan(0.5)
  const [large, small] = await figures('Pictures')
  expect(large!).toBeGreaterThan(small!)
  // the stretch is the middle of the region: 90 frames of it, 4 s at most
  expect(await page.getByLabel('First frame of the stretch').inputValue()).toBe('10:00:59:20')
  await page.getByLabel('Length of the stretch').selectOption({ label: '1 s' })
  await page.getByText('not made yet').first().waitFor()
  await page.getByRole('button', { name: 'Make them' }).click()
  await expect.poll(() => page.getByText('made', { exact: true }).count()).toBe(2)
  await page.getByRole('heading', { name: 'Try settings' }).click()
  for (let i = 0; i < 7; i++) await page.keyboard.press('ArrowDown')
  for (const key of ['0', '2', '1']) {
    await page.keyboard.press(key)
    await page.locator('.pick[aria-checked=true]', { hasText: key }).waitFor()
    expect(await counterShown()).toBe(27)
  }
  await page.keyboard.press(' ')
  await page.locator('.pick[aria-checked=true]', { hasText: 'B' }).waitFor()
  await page.keyboard.press('d')
  await page.getByAltText('Difference of B, 10:01:00:02').waitFor()
})

it('says what cannot be made, and takes the better one', async () => {
  const channels = page.getByLabel('Sound channels of A')
  await channels.fill('1 2 9')
  await channels.press('Enter')
  await page.getByRole('button', { name: 'Make them' }).click()
  await page.getByText('channel 9 is asked for.').waitFor()
  await page.getByText('cannot be made', { exact: true }).waitFor()
  await page.getByRole('button', { name: 'for this one' }).nth(1).click()
  await page.getByText('instead of 3000 kbit/s').waitFor()
  const [d] = (await ask<{ list: DeliverableSummary[] }>('deliverables')).list.filter((x) => x.path.endsWith('.mp4'))
  expect(d!.overrides).toEqual({ pictureBitrate: 1500 })
})
