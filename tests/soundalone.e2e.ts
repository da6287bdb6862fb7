import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { FinishedSummary } from '../contract/runs'
import type { ShownTimeline } from '../contract/timelines'
import { encodePcm } from '../core/codec/pcm/pcm'
import { wavHead } from '../core/container/wav/write'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe } from './fixtures'

// Sound alone through the interface: brought in, split at its cue points and between them, delivered; Chromium decodes
// what was written.

const sampleRate = 44100
const length = sampleRate * 5 + 321
const wave = (phase: number) =>
  Float32Array.from({ length }, (_, i) => Math.round(0.3 * 8_388_607 * Math.sin(phase + i / 23)) / 8_388_608)
const channels = [wave(0), wave(2)]

const { storage } = application(() => {
  const bext = {
    ...{ description: '', originator: '', originatorReference: '', date: '', time: '', history: '' },
    timeReference: 3600 * sampleRate,
    loudness: null,
  }
  const cues = [
    { at: 0, name: 'Fog horn' },
    { at: 70_001, name: 'Bell' },
    { at: 150_003, name: 'Gulls' },
  ]
  const list = [
    'TITLE: HARBOUR',
    'FCM: NON-DROP FRAME',
    '001  TAPE     AA    C        00:00:01:00 00:00:02:00 06:00:00:00 06:00:01:00',
    '* FROM CLIP NAME: tape.wav',
    '002  TAPE     AA    C        00:00:03:00 00:00:05:00 06:00:01:00 06:00:03:00',
    '* FROM CLIP NAME: tape.wav',
  ]
  writeFileSync(path.join(storage, 'harbour.edl'), list.join('\n'))
  const head = wavHead({ channels: 2, sampleRate, bitDepth: 24, samples: length, cues, bext })
  writeFileSync(path.join(storage, 'tape.wav'), Buffer.concat([head, encodePcm(channels, 24, true)]))
})
pageOfApplication()

const split = async () => (await ask<ShownTimeline[]>('timelines'))[0]!.split.regions

it('is brought in from storage, and heard', async () => {
  await page.goto(`${served.url}/timelines`)
  await page.getByRole('button', { name: 'From storage' }).click()
  await page.getByRole('button', { name: /tape\.wav/ }).click()
  await page.getByText('samples', { exact: true }).waitFor()
  await page.getByText(/no faults|click/).waitFor()
  expect(await page.locator('.heard rect').count()).toBeGreaterThan(20)
  expect(await page.getByLabel(/^Start of /).inputValue()).toBe('01:00:00:00000')
})

it('is split at its cue points, and trimmed to the sample', async () => {
  await page.getByRole('button', { name: 'To the desk' }).click()
  await page.locator('canvas').first().waitFor()
  await page.keyboard.press('Home')
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press('Enter')
    await page.keyboard.press('Escape')
    await page.keyboard.press('PageDown')
  }
  await expect
    .poll(async () => (await split()).map((r) => [r.name, r.in, r.out]))
    .toEqual([
      ['Fog horn', 0, 70_001],
      ['Bell', 70_001, 150_003],
      ['Gulls', 150_003, length],
    ])
  const first = page.getByLabel('First frame').nth(1)
  await first.fill('01:00:01.75')
  await first.press('Enter')
  await expect.poll(async () => (await split())[1]!.in).toBe(sampleRate * 1.75)
  // one sample with Alt, a hundredth of a second without
  await page.keyboard.press('Home')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Alt+ArrowDown')
  await page.getByText('sample 442', { exact: true }).waitFor()
  expect(await page.getByLabel(/^Wave around sample/).count()).toBe(3)
})

it('plays from where the playhead stands, with no jump back when the sound begins', async () => {
  await page.keyboard.press('Home')
  await page.keyboard.press('Space')
  const places = await page.evaluate(async () => {
    const seen: number[] = []
    const began = performance.now()
    while (performance.now() - began < 2500) {
      seen.push(Number(document.querySelector('.marked .quiet')!.textContent!.replace(/\D/g, '')))
      await new Promise(requestAnimationFrame)
    }
    return seen
  })
  await page.keyboard.press('Space')
  expect(places).toEqual([...places].sort((a, b) => a - b))
  expect(places.at(-1)).toBeGreaterThan(sampleRate / 2)
})

it('is delivered sample by sample, as Chromium decodes it', async () => {
  await ask('outlets', 'PUT', outlet('o', 'storage', recipe('sound')))
  const [t] = await ask<ShownTimeline[]>('timelines')
  const keys = t!.split.regions.map((r) => ({ timelineId: t!.id, regionId: r.id, outletId: 'o' }))
  await ask('deliverables', 'POST', { action: 'choose', keys, chosen: true })
  await page.getByRole('link', { name: /Night run/ }).click()
  await page.getByRole('button', { name: 'Start the night: 3 files' }).click()
  await page.getByText('3 files done and proven').waitFor()
  const finished = await ask<FinishedSummary[]>('handover')
  for (const r of t!.split.regions) {
    const file = finished.find((f) => f.region === r.name)!
    const heard = await page.evaluate(
      async ({ url, rate }) => {
        const context = new OfflineAudioContext(2, 1, rate)
        const sound = await context.decodeAudioData(await (await fetch(url)).arrayBuffer())
        return [0, 1].map((c) => Array.from(sound.getChannelData(c)))
      },
      { url: `${served.url}/api/handover/files/${file.id}`, rate: sampleRate },
    )
    expect(heard.map((c) => c.length)).toEqual([r.out - r.in, r.out - r.in])
    const off = heard.map((c, k) => c.reduce((m, v, i) => Math.max(m, Math.abs(v - channels[k]![r.in + i]!)), 0))
    expect(Math.max(...off)).toBeLessThan(1e-6)
  }
})

it('as a list is shown by its wave and counted in frames, cut where its events are', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'harbour.edl' }, rate: '25' })
  await page.getByRole('link', { name: /^Timelines/ }).click()
  const card = page.locator('article.timeline', { hasText: 'harbour.edl' })
  await card.locator('.heard rect').first().waitFor()
  await card.getByText('Stretches', { exact: true }).waitFor()
  expect(await card.getByText('Raster', { exact: true }).count()).toBe(0)
  await card.getByRole('button', { name: 'To the desk' }).click()
  await page.getByLabel('Wave around frame 0', { exact: true }).waitFor()
  await page.keyboard.press('PageDown')
  await page.keyboard.press('ArrowDown')
  await page.getByLabel('Wave around frame 26', { exact: true }).waitFor()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  const own = async () => (await ask<ShownTimeline[]>('timelines')).find((t) => t.file.path === 'harbour.edl')!
  await expect.poll(async () => (await own()).split.regions.map((r) => [r.in, r.out])).toEqual([[25, 75]])
  expect((await own()).info.video).toEqual([])
  expect(await page.getByLabel(/^Wave around frame/).count()).toBe(3)
})
