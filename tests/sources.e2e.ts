import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import { openPictures } from '../core/codec/pictures'
import { openMedia } from '../core/container/registry'
import { writeEdl } from '../core/timeline/formats/edl/write'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import { makeRate, rateText } from '../core/time/rate'
import { readCounter } from '../demo/reel'
import { machineCodecs } from '../engine/worker/codecs'
import { openFile } from '../engine/storage/disk'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel } from './fixtures'

// A list of three hundred events over twelve cards, two missing, one replaced, one at another rate: seen, linked,
// exported.

const rate = makeRate(25)
const cards = Array.from({ length: 12 }, (_, i) => `CARD_${String(i + 1).padStart(2, '0')}`)
const startOf = (card: number) => (card + 1) * 90_000

/** Event k takes four frames of a card that is another each time. */
const events = Array.from({ length: 300 }, (_, k): TimelineEvent => {
  const card = (k * 7) % 12
  const first = startOf(card) + (k % 14)
  return {
    track: 'V',
    kind: 'video',
    name: `shot ${k}`,
    reel: cards[card]!,
    file: null,
    source: { in: first, out: first + 4, rate },
    speed: normalSpeed,
    record: { in: k * 4, out: k * 4 + 4 },
    transition: null,
  }
})
const timeline: Timeline = {
  name: 'Night',
  rate,
  dropFrame: false,
  start: 90_000,
  length: 1200,
  tracks: [{ name: 'V', kind: 'video' }],
  events,
  markers: [],
}

async function card(file: string, i: number, frames = 24, ofRate = rate) {
  mkdirSync(path.dirname(file), { recursive: true })
  await smallReel(file, {
    rate: ofRate,
    start: startOf(i),
    bitrate: 900_000,
    shots: [{ scene: i % 2 ? 'bell' : 'lowWater', frames, name: cards[i]!, reel: cards[i]! }],
    // long enough for all frames: a file whose sound ends early is not whole, and is kept out
    channels: [new Float32Array(96_000)],
  })
}

const { folder, storage } = application(async () => {
  for (let i = 0; i < 12; i++) {
    if (i === 2) await card(path.join(folder, 'vault', `${cards[i]!}.mov`), i)
    else if (i === 6) await card(path.join(storage, 'odd', 'late_delivery.mov'), i)
    else if (i === 8) await card(path.join(storage, 'cards', `${cards[i]!}.mov`), i, 24, makeRate(24))
    else await card(path.join(storage, 'cards', `${cards[i]!}.mov`), i)
  }
  writeFileSync(path.join(storage, 'night.edl'), writeEdl(timeline).text)
})
pageOfApplication()

const rows = () =>
  page
    .locator('.sources tr')
    .evaluateAll((list) => list.map((r) => [r.className, r.querySelector('.who span')!.textContent]))

it('shows every trouble at its place', async () => {
  await page.goto(served.url)
  await page.getByRole('button', { name: 'From storage' }).click()
  await page.getByRole('button', { name: /night\.edl/ }).click()
  await page.getByText('10 of 12 sources linked').waitFor()
  expect(await rows()).toEqual([
    ['missing', 'CARD_03'],
    ['missing', 'CARD_07'],
    ['rate', 'CARD_09'],
  ])
  await page.getByText('looked for reel “CARD_03”').waitFor()
  // three cards of twenty-five events each
  expect(await page.locator('.bars button').count()).toBe(75)
  await page.locator('.bars button').first().click()
  await page.locator('#strip').waitFor()
  await page.goto(`${served.url}/timelines`)
})

it('sees a card that was replaced', async () => {
  await card(path.join(storage, 'cards', 'CARD_05.mov'), 4, 30)
  await page.reload()
  await page.getByRole('cell', { name: 'replaced' }).waitFor()
  expect(await rows()).toContainEqual(['replaced', 'CARD_05'])
})

it('links them: a candidate by its timecode, a card that came back, a folder for what was wrong', async () => {
  await page.getByLabel('Media for CARD_07', { exact: true }).selectOption({ label: 'odd/late_delivery.mov' })
  await page.getByText('11 of 12 sources linked').waitFor()
  copyFileSync(path.join(folder, 'vault', 'CARD_03.mov'), path.join(storage, 'cards', 'CARD_03.mov'))
  await page.getByRole('button', { name: 'Look again' }).click()
  await page.getByText('12 of 12 sources linked').waitFor()
  await card(path.join(storage, 'fixed', 'CARD_09.mov'), 8)
  await page.getByRole('button', { name: 'Look in a folder' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'fixed' }).click()
  await page.getByRole('button', { name: 'Use this folder' }).click()
  await page.locator('.sources tr').first().waitFor({ state: 'detached' })
  expect(await page.locator('.bars button').count()).toBe(0)
})

it('exports the whole exactly, whatever card a frame comes from', async () => {
  const [t] = await ask<{ id: string; splitVersion: number }[]>('timelines')
  await ask(`timelines/${t!.id}/split`, 'PUT', {
    version: t!.splitVersion,
    split: { regions: [{ id: 'all', name: 'All', in: 0, out: 1200, metadata: {} }], markers: [] },
  })
  await ask('outlets', 'PUT', outlet('view', 'storage', recipe('viewing', { channels: 'none', pictureBitrate: 3000 })))
  await ask('deliverables', 'POST', {
    action: 'choose',
    keys: [{ timelineId: t!.id, regionId: 'all', outletId: 'view' }],
    chosen: true,
  })
  await ask('runs', 'POST', { name: 'night', workers: 2, keys: null })
  const run = async () => (await ask<{ state: string }[]>('runs'))[0]!.state
  await expect.poll(run, { timeout: 840_000, interval: 300 }).toBe('done')
  const done = await ask<{ path: string }[]>('handover')
  const source = await openFile(path.join(storage, done[0]!.path))
  const numbers: (number | null)[] = []
  for await (const { picture } of openPictures(await openMedia(source), machineCodecs()).read({ in: 0, out: 1200 }))
    numbers.push(readCounter(picture.planes[0], picture.width))
  await source.close()
  expect(numbers).toEqual(events.flatMap((e, k) => Array.from({ length: 4 }, (_, i) => (k % 14) + i)))
})

it('keeps versions together and tells what changed', async () => {
  const shorter: Timeline = { ...timeline, length: 1196, events: events.slice(0, 299) }
  writeFileSync(path.join(folder, 'night.edl'), writeEdl(shorter).text)
  await page.locator('input[type=file]').setInputFiles(path.join(folder, 'night.edl'))
  await page.getByText('Against night:').waitFor()
  expect(await page.locator('.changes').innerText()).toMatch(/1\s+gone\s+299\s+kept/)
  await page.getByRole('button', { name: 'show 1 earlier version' }).waitFor()
  await page.locator('.changes .gone').click()
  await page.getByText('in night only').waitFor()
})

it('takes another start and another rate from a person, and refuses a rate that would lose events', async () => {
  const clock = async () => {
    const model = (await ask<{ name: string; model: Timeline }[]>('timelines')).find(
      (t) => t.name === 'night v2',
    )!.model
    return [rateText(model.rate), model.start, model.length, model.events.length]
  }
  const start = page.getByLabel('Start of night v2: type another')
  await start.fill('10:00:00:00')
  await start.press('Enter')
  await expect.poll(clock).toEqual(['25/1', 900_000, 1196, 299])
  const rateOf = page.getByLabel('Rate of night v2')
  await rateOf.selectOption('24')
  await page.getByText('There are labels in this list that 24 frames a second do not have').waitFor()
  expect(await rateOf.inputValue()).toBe('25')
  await rateOf.selectOption('50')
  // the start that was given stays; 47 seconds and 21 frames of labels
  await expect.poll(clock).toEqual(['50/1', 1_800_000, 47 * 50 + 21, 299])
})
