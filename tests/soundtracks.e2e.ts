import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { FinishedSummary } from '../contract/runs'
import type { ShownTimeline } from '../contract/timelines'
import { writeInterchange } from '../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import { makeRate } from '../core/time/rate'
import { application, ask, page, pageOfApplication, served } from './browser'
import { outlet, recipe } from './fixtures'
import { makeScenes } from './scenes'
import { tones } from './tones'
import { makeUnread } from './unread'

// Sound tracks through the interface: those of a list that does not say what they carry, and one of a file that is read
// by nobody here; and a file whose pictures nobody reads.

const rate = makeRate(25)
const pair = (track: string, file: string): TimelineEvent => ({
  ...{ track, kind: 'audio', name: file, reel: '', file, speed: normalSpeed, transition: null },
  ...{ source: { in: 0, out: 75, rate }, record: { in: 0, out: 75 } },
})
const list: Timeline = {
  ...{ name: 'Tides', rate, dropFrame: false, start: 90_000, length: 75, markers: [] },
  tracks: ['A1', 'A2'].map((name) => ({ name, kind: 'audio' })),
  events: [pair('A1', 'band.wav'), pair('A2', 'voice.wav')],
}

const { storage } = application(async () => {
  tones(path.join(storage, 'band.wav'), [1000, 500])
  tones(path.join(storage, 'voice.wav'), [250, 125])
  writeFileSync(path.join(storage, 'tides.otio'), writeInterchange({ timeline: list }, 'otio').text)
  await makeScenes(path.join(storage, 'half.mov'), [[1, 0, 100]], ['L R', 'L R'])
  makeUnread(path.join(storage, 'half.mov'))
  await makeScenes(path.join(storage, 'film.mov'), [[1, 0, 100]], ['L C R Ls Rs LFE'], [0.1, 0.2, 0.3, 0.15, 0.25, 0])
  await makeScenes(path.join(storage, 'blind.mov'), [[1, 0, 100]])
  makeUnread(path.join(storage, 'blind.mov'), ['v210'], 'vc-5')
})
pageOfApplication()

async function bringIn(name: RegExp) {
  await page.goto(`${served.url}/timelines`)
  await page.getByRole('button', { name: 'From storage' }).click()
  await page.getByRole('button', { name }).click()
}
const timeline = async (name: string) => (await ask<ShownTimeline[]>('timelines')).find((t) => t.name === name)!

it('of a list are read as a person says', async () => {
  await bringIn(/tides\.otio/)
  await page.getByText('“voice.wav” has 2 sound channels, of which only 2 is heard').waitFor()
  await page.getByLabel('Sound tracks of tides').selectOption('all channels each, mixed')
  await page.getByText('2 of 2 sources linked').waitFor()
  await page.getByText('of which only').first().waitFor({ state: 'detached' })
  const { model, sources } = await timeline('tides')
  expect([model.soundTracks, sources.map((s) => s.state)]).toEqual(['mixed', ['linked', 'linked']])
  await page.getByLabel('Sound tracks of tides').selectOption('all channels each, side by side')
  await page.getByText('4 × 48 kHz, L R L R').waitFor()
})

it('that nobody reads are told from silence, and left out by one click', async () => {
  await bringIn(/half\.mov/)
  await page.getByText('Channels 3 and 4 are not heard. Sound of kind “ac-3” cannot be decoded here.').waitFor()
  await page.goto(`${served.url}/desk`)
  await page.locator('header select').selectOption('half')
  const hear = (channel: number) => page.getByLabel(`Hear channel ${channel}`)
  await hear(1).waitFor()
  const states = async () =>
    Promise.all([1, 2, 3, 4].map(async (c) => [await hear(c).isDisabled(), await hear(c).getAttribute('aria-pressed')]))
  await expect.poll(states).toEqual([
    [false, 'true'],
    [false, 'true'],
    [true, 'false'],
    [true, 'false'],
  ])
  expect(await hear(3).getAttribute('title')).toContain('cannot be heard. Sound of kind “ac-3”')
  const { id, splitVersion } = await timeline('half')
  const regions = [{ id: 'r', name: 'Fog Bell', in: 0, out: 75, metadata: {} }]
  await ask(`timelines/${id}/split`, 'PUT', { split: { regions, markers: [] }, version: splitVersion })
  await ask('outlets', 'PUT', outlet('sound', 'storage', recipe('sound')))
  const keys = [{ timelineId: id, regionId: 'r', outletId: 'sound' }]
  await ask('deliverables', 'POST', { action: 'choose', keys, chosen: true })
  await page.goto(`${served.url}/checks`)
  await page.getByRole('button', { name: /^Can be made here, Fog Bell → sound: fail/ }).click()
  await page.getByText('Sound channels all → 1 2').waitFor()
  await page.getByRole('button', { name: 'Change this one' }).click()
  await page.getByRole('button', { name: /^Can be made here, Fog Bell → sound: pass/ }).waitFor()
})

it('of a file whose pictures nobody reads are heard, and it is split by timecode', async () => {
  await bringIn(/blind\.mov/)
  const said = 'Pictures of kind “vc-5” are not decoded here: they are split by timecode, and copied.'
  await page.getByText(said).waitFor()
  await page
    .getByText(/LUFS\s+over all/)
    .first()
    .waitFor()
  expect(await page.locator('article', { hasText: said }).locator('img').count()).toBe(0)
  const { id, splitVersion } = await timeline('blind')
  const regions = [{ id: 'r', name: 'Bell Buoy', in: 10, out: 75, metadata: {} }]
  await ask(`timelines/${id}/split`, 'PUT', { split: { regions, markers: [] }, version: splitVersion })
  await page.goto(`${served.url}/desk`)
  await page.locator('header select').selectOption('blind')
  await page.getByText('Bell Buoy').first().click()
  await expect.poll(() => page.getByText('not decoded', { exact: true }).count()).toBe(4)
  await page.getByText('Not decoded here', { exact: true }).waitFor()
  // nobody knows where its cuts are
  expect(await page.getByText('into a shot').count()).toBe(0)
})

it('in film’s order are brought together to stereo by one click, and not to left and centre', async () => {
  await bringIn(/film\.mov/)
  await expect.poll(async () => (await ask<ShownTimeline[]>('timelines')).map((t) => t.name)).toContain('film')
  const { id, splitVersion } = await timeline('film')
  const regions = [{ id: 'r', name: 'Low Water', in: 0, out: 75, metadata: {} }]
  await ask(`timelines/${id}/split`, 'PUT', { split: { regions, markers: [] }, version: splitVersion })
  await ask('outlets', 'PUT', outlet('pair', 'storage', recipe('sound', { channels: [1, 2] })))
  const keys = [{ timelineId: id, regionId: 'r', outletId: 'pair' }]
  await ask('deliverables', 'POST', { action: 'choose', keys, chosen: true })
  await page.goto(`${served.url}/checks`)
  await page.locator('header select').selectOption('film')
  await page.getByRole('button', { name: /^Order of channels, Low Water → pair: caution/ }).click()
  await page.getByText('Order of channels: L C; required').waitFor()
  await page.getByText('Sound channels 1 2 → 1 2 3 4 5 6, Downmix none → to stereo').waitFor()
  await page.getByRole('button', { name: 'Change this one' }).click()
  await page.getByRole('button', { name: /^Order of channels, Low Water → pair: pass/ }).waitFor()
  await page.getByRole('link', { name: 'Settings', exact: true }).click()
  await page.getByText('instead of none').waitFor()
  await page.getByText('2 × PCM').waitFor()
})

it('of a surround stand where Chromium hears them, in a viewing copy in the usual order', async () => {
  const { id } = await timeline('film')
  const channels = [1, 3, 2, 6, 4, 5]
  await ask('outlets', 'PUT', outlet('six', 'storage', recipe('viewing', { channels, soundBitrate: 640 })))
  const key = { timelineId: id, regionId: 'r', outletId: 'six' }
  await ask('deliverables', 'POST', { action: 'choose', keys: [key], chosen: true })
  await page.goto(`${served.url}/handover`)
  const started = () => ask('runs', 'POST', { name: 'six', workers: 2, keys: [`${id}/r/six`] }).then(() => true, String)
  await expect.poll(started).toBe(true)
  const made = async () => (await ask<FinishedSummary[]>('handover')).find((f) => f.outlet === 'six')
  await expect.poll(made).toBeTruthy()
  const peaks = await page.evaluate(
    async (url) => {
      const context = new OfflineAudioContext(6, 1, 48_000)
      const sound = await context.decodeAudioData(await (await fetch(url)).arrayBuffer())
      const middle = Array.from({ length: sound.numberOfChannels }, (_, c) =>
        sound.getChannelData(c).subarray(48_000, 96_000),
      )
      return middle.map((c) => c.reduce((most, v) => Math.max(most, v), 0))
    },
    `${served.url}/api/handover/files/${(await made())!.id}`,
  )
  expect(peaks.map((p) => Math.round(p * 20) / 20)).toEqual([0.1, 0.3, 0.2, 0, 0.15, 0.25])
})
