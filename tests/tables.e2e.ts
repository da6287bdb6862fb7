import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { DeliverableSummary } from '../contract/deliverables'
import type { FinishedSummary } from '../contract/runs'
import type { SplitTimeline } from '../core/split/timeline'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel } from './fixtures'

// A look-up table and a trial through the interface: put on the Shelf, set for one region, made, told from deliveries.

const { storage } = application(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { bitrate: 8_000_000 })
})
pageOfApplication()

/** Two points a side: red and blue change places. */
const swap = Array.from({ length: 8 }, (_, i) => `${(i >> 2) & 1} ${(i >> 1) & 1} ${i & 1}`).join('\n')
const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) })

it('puts tables on the Shelf, and says what is wrong with one', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const [t] = await ask<SplitTimeline[]>('timelines')
  const region = (id: string, name: string, from: number) => ({ id, name, in: from, out: from + 8, metadata: {} })
  const regions = [region('a', 'Fog Bell', 50), region('b', 'Low Water', 60)]
  await ask(`timelines/${t!.id}/split`, 'PUT', { split: { regions, markers: [] }, version: 1 })
  const r = recipe('viewing', { width: 320, height: 180, channels: [1, 2], pictureBitrate: 3000 })
  await ask('outlets', 'PUT', outlet('Screening', 'storage', r))
  await page.goto(`${served.url}/shelf`)
  await page.getByText('recipes that make pictures can go by one').waitFor()
  await page
    .getByLabel('Look-up tables from files')
    .setInputFiles([file('bad.cube', 'LUT_3D_SIZE 2\n0 0 0'), file('swap.cube', `LUT_3D_SIZE 2\n${swap}`)])
  await page.getByText('It has 1 of the 8 points it says.').waitFor()
  await page.getByText('swap 2³').waitFor()
})

it('sets it for one region, with what it does in words; the trap of a trial has its way back', async () => {
  await page.getByRole('link', { name: /^Outlets/ }).click()
  await page.getByLabel('all regions').first().check()
  await page.getByText('01_Fog_Bell.mp4').first().click()
  await page.getByLabel('Look-up table').selectOption({ label: 'swap (2³)' })
  await page.getByText('Its pictures go through a look-up table, and are said to be BT.709 after it.').waitFor()
  await page.getByLabel('Contact sheet').selectOption({ label: '12 pictures' })
  await page.getByLabel('Trial').selectOption({ label: 'half size' })
  await page.getByText('out/Screening/Trials/01_Fog_Bell.mp4').first().waitFor()
  await page.getByRole('link', { name: 'see its checks' }).click()
  await page.getByText('Trial: half size; required: no.').waitFor()
  await page.getByText('Trial half size → no').waitFor()
})

it('makes both, and hands the trial over to nobody', async () => {
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.getByRole('button', { name: 'Start the night: 2 files' }).click()
  await page.getByText('2 files done and proven').waitFor()
  await page.getByRole('link', { name: /^Handover/ }).click()
  const packages = page.getByRole('navigation', { name: 'Packages' })
  await packages.getByText('trials, for nobody').waitFor()
  expect(await packages.getByRole('link', { name: 'report' }).count()).toBe(1)
  await packages.getByRole('link', { name: 'report' }).click()
  const sheet = page.locator('.sheet')
  await sheet.getByText('Handover to Screening').waitFor()
  await sheet.getByText('1 file ·').waitFor()
  expect(await sheet.locator('article h2').allInnerTexts()).toEqual(['Low Water'])
})

it('shows the contact sheet that was made beside it', async () => {
  await page.goto(`${served.url}/handover`)
  await page.getByRole('navigation', { name: 'Packages' }).getByText('01_Fog_Bell.mp4').click()
  const sheet = page.getByAltText('Contact sheet of 01_Fog_Bell.mp4')
  await sheet.waitFor()
  await expect.poll(() => sheet.evaluate((i: HTMLImageElement) => i.naturalWidth)).toBe(2000)
})

it('shows red as blue to Chromium, in the size of the trial', async () => {
  const finished = await ask<FinishedSummary[]>('handover')
  const of = async (trial: boolean) => {
    const { id } = finished.find((f) => f.trial === trial)!
    return page.evaluate(async (url) => {
      const video = document.createElement('video')
      video.src = url
      video.muted = true
      await new Promise((resolve, reject) => {
        video.onseeked = resolve
        video.onloadedmetadata = () => (video.currentTime = 0.1)
        video.onerror = () => reject(new Error('Chromium cannot show it'))
      })
      const canvas = Object.assign(document.createElement('canvas'), { width: 64, height: 36 })
      const g = canvas.getContext('2d')!
      g.drawImage(video, 0, 0, 64, 36)
      const { data } = g.getImageData(0, 0, 64, 36)
      const sum = [0, 0, 0]
      for (let i = 0; i < data.length; i++) if (i % 4 < 3) sum[i % 4]! += data[i]! / (64 * 36)
      return { width: video.videoWidth, sum }
    }, `/api/handover/files/${id}`)
  }
  const [trial, whole] = [await of(true), await of(false)]
  expect([trial.width, whole.width]).toEqual([160, 320])
  // the pictures of both regions have more of one of the two; in the trial it is the other
  const leaning = ({ sum: [r, , b] }: typeof trial) => r! - b!
  console.info(`red over blue: ${leaning(whole).toFixed(1)}, through the table ${leaning(trial).toFixed(1)}`)
  expect(Math.abs(leaning(whole))).toBeGreaterThan(4)
  expect(Math.sign(leaning(trial))).toBe(-Math.sign(leaning(whole)))
})

it('does not let go of a table that something goes by', async () => {
  await page.goto(`${served.url}/shelf`)
  const row = page.locator('.recipe', { hasText: 'swap 2³' })
  await row.getByRole('button', { name: 'remove' }).click()
  await page.getByText('Pictures for “Screening” go through this table.').waitFor()
  const key = (await ask<{ list: DeliverableSummary[] }>('deliverables')).list.find((d) => d.trial)!
  const { timelineId, regionId, outletId } = key
  await ask('deliverables', 'POST', {
    action: 'override',
    keys: [{ timelineId, regionId, outletId }],
    values: {},
    reset: ['table'],
  })
  await row.getByRole('button', { name: 'remove' }).click()
  await page.getByText('recipes that make pictures can go by one').waitFor()
})
