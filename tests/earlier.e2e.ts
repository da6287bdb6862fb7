import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { RunSummary } from '../contract/runs'
import type { SplitTimeline } from '../core/split/timeline'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel } from './fixtures'

// New sound under finished pictures through the interface: said before the night, left to choose, told in the Handover.

const { storage } = application(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
})
pageOfApplication()

const screening = (gain: number) =>
  outlet('Screening', 'storage', recipe('viewing', { width: 320, height: 180, channels: [1, 2], gain }))

/** Sets the level of the outlet, and opens the Night run to plan. */
async function plan(gain: number): Promise<void> {
  await ask('outlets', 'PUT', screening(gain))
  await page.goto(`${served.url}/run`)
  await page.getByText('gain changed since').waitFor()
}

const start = async () => {
  const before = (await ask<RunSummary[]>('runs')).length
  await page.getByRole('button', { name: 'Start the night: 1 file' }).click()
  await expect
    .poll(async () => (await ask<RunSummary[]>('runs')).filter((r) => r.state === 'done').length)
    .toBe(before + 1)
}

it('takes the pictures of what was proven where only its sound is another, and says so', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const [t] = await ask<SplitTimeline[]>('timelines')
  const regions = [{ id: 'a', name: 'Fog Bell', in: 50, out: 60, metadata: {} }]
  await ask(`timelines/${t!.id}/split`, 'PUT', { split: { regions, markers: [] }, version: 1 })
  await ask('outlets', 'PUT', screening(0))
  const keys = [{ timelineId: t!.id, regionId: 'a', outletId: 'Screening' }]
  await ask('deliverables', 'POST', { action: 'choose', keys, chosen: true })
  await page.goto(`${served.url}/run`)
  await start()
  await plan(-3)
  await page.getByText('gain changed since, pictures taken from').waitFor()
  await start()
  await page.goto(`${served.url}/handover`)
  const packages = page.getByRole('navigation', { name: 'Packages' })
  await packages.getByText('01_Fog_Bell_v02.mp4').click()
  await page.getByText('Its pictures are those of out/Screening/01_Fog_Bell.mp4').waitFor()
  await packages.getByText('01_Fog_Bell.mp4', { exact: true }).click()
  await page.getByText('Its pictures are those of').waitFor({ state: 'detached' })
})

it('makes them anew where that is asked for', async () => {
  await plan(-6)
  await page.getByLabel('Make the pictures of 1 file anew').check()
  await page.getByText('pictures taken from').waitFor({ state: 'detached' })
  await start()
  await page.goto(`${served.url}/handover`)
  await page.getByRole('navigation', { name: 'Packages' }).getByText('01_Fog_Bell_v03.mp4').click()
  await page
    .getByAltText(/picture as written/)
    .first()
    .waitFor()
  expect(await page.getByText('Its pictures are those of').count()).toBe(0)
})

it('plans the next night while one goes on, without what that makes', async () => {
  await plan(-9)
  await page.getByRole('button', { name: 'Start the night: 1 file' }).click()
  await page.getByRole('button', { name: 'Pause' }).click()
  await page.getByText('Paused: what was in hand is finished, nothing new begins.').waitFor()
  await page.getByRole('button', { name: 'Plan the next' }).click()
  await page.getByText(/being made in Night of/).waitFor()
  expect(await page.getByLabel('Run Fog Bell → Screening').isChecked()).toBe(false)
  await page.getByRole('button', { name: 'Start the night: 0 files' }).waitFor()
  await page.getByText('paused · 0/1').waitFor()
  await page.getByRole('button', { name: 'Back to the run' }).click()
  await page.getByRole('button', { name: 'Go on' }).click()
  await page.getByText('1 file done and proven').waitFor()
  await page.getByRole('button', { name: 'Plan the next' }).click()
  await page.getByText('unchanged since delivered as').waitFor()
})
