import { mkdirSync, readdirSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { FinishedSummary } from '../contract/runs'
import type { SplitTimeline } from '../core/split/timeline'
import { toRgb } from '../core/picture/picture'
import { drawFrame } from '../demo/reel'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel, type smallPlan } from './fixtures'

// Stills through the interface: a recipe is chosen, a night is run, Chromium looks at what came out.

let plan: ReturnType<typeof smallPlan>
const { storage } = application(async () => {
  mkdirSync(storage, { recursive: true })
  plan = await smallReel(path.join(storage, 'reel.mov'), { bitrate: 8_000_000 })
})
pageOfApplication()

it('makes an outlet for a sequence on the Shelf, with only the settings it has', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const [t] = await ask<SplitTimeline[]>('timelines')
  const regions = [{ id: 'a', name: 'Fog Bell', in: 50, out: 62, metadata: {} }]
  await ask(`timelines/${t!.id}/split`, 'PUT', { split: { regions, markers: [] }, version: 1 })
  await ask('outlets', 'PUT', outlet('Scans', 'storage', recipe('sequence')))
  await ask(
    'outlets',
    'PUT',
    outlet('Pictures', 'storage', recipe('still', { stillFormat: 'png-8', stillAt: 'first' })),
  )
  await page.goto(`${served.url}/shelf`)
  await page.locator('.card', { hasText: 'Scans' }).getByRole('button', { name: 'change' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Stills').waitFor()
  expect(await dialog.getByLabel('Sound channels').count()).toBe(0)
  expect(await dialog.getByLabel('Stills').locator('option').allInnerTexts()).toContain('DPX, 10 bit R′G′B′')
  await dialog.getByText('/‹name›.#######.dpx').waitFor()
  await dialog.getByLabel('Stills').selectOption({ label: 'OpenEXR, 16 bit floating point, ZIP' })
  await dialog.getByLabel('Digits').fill('5')
  await dialog.getByLabel('Digits').press('Enter')
  await dialog.getByLabel('First number').fill('1001')
  await dialog.getByLabel('First number').press('Enter')
  await dialog.getByText('/‹name›.#####.exr').waitFor()
  await dialog.getByRole('button', { name: 'Keep it on the shelf' }).click()
})

it('shows what the run will be called, and what the files cannot say', async () => {
  await page.getByRole('link', { name: /^Outlets/ }).click()
  for (const n of [0, 1]) await page.getByLabel('all regions').nth(n).check()
  await page.getByText('01_Fog_Bell.[01001-01012].exr').first().waitFor()
  await page.getByText('01_Fog_Bell.png').first().click()
  await page.getByText('The files cannot say how many there are to a second, their timecode or their colour.').waitFor()
})

it('hands over the run as one, with the list of its sums', async () => {
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.getByRole('button', { name: 'Start the night: 2 files' }).click()
  await page.getByText('2 files done and proven').waitFor()
  await page.getByRole('link', { name: /^Handover/ }).click()
  await page.getByRole('button', { name: '01_Fog_Bell.[01001-01012].exr' }).click()
  await page.getByText('All 12 pictures decoded.').waitFor()
  await page.getByText('of the lists of every still’s own').waitFor()
  await page.getByText('of 01_Fog_Bell.sha256').waitFor()
  expect(readdirSync(path.join(storage, 'out/Scans/01_Fog_Bell'))).toHaveLength(13)
  const [run] = (await ask<FinishedSummary[]>('handover')).filter((f) => f.path.endsWith('.exr'))
  const list = await (await fetch(`${served.url}/api/handover/files/${run!.id}`)).text()
  expect(list.split('\n')[11]).toMatch(/^[0-9a-f]{64} {2}01_Fog_Bell\.01012\.exr$/)
})

it('writes a still that Chromium shows in the colours of the frame', async () => {
  const [one] = (await ask<FinishedSummary[]>('handover')).filter((f) => f.path.endsWith('.png'))
  expect(one!.path).toBe('out/Pictures/01_Fog_Bell.png')
  const { pixels, width, height } = await page.evaluate(async (url) => {
    const image = await createImageBitmap(await (await fetch(url)).blob())
    const g = new OffscreenCanvas(image.width, image.height).getContext('2d')!
    g.drawImage(image, 0, 0)
    const { data } = g.getImageData(0, 0, image.width, image.height)
    return { pixels: [...data.filter((_, i) => i % 4 < 3)], width: image.width, height: image.height }
  }, `/api/handover/files/${one!.id}`)
  expect([width, height]).toEqual([plan.width, plan.height])
  const { rgb } = toRgb(drawFrame(plan, 50))
  // the reel is coded: the mean tells the frame and its colours, not the noise
  const off = pixels.reduce((n, v, i) => n + Math.abs(v - rgb[i]!), 0) / pixels.length
  expect(off).toBeLessThan(3)
  const next = toRgb(drawFrame(plan, 53)).rgb
  expect(pixels.reduce((n, v, i) => n + Math.abs(v - next[i]!), 0) / pixels.length).toBeGreaterThan(off)
})
