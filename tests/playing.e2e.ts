import path from 'node:path'
import { expect, it } from 'vitest'
import { readCounter } from '../demo/reel'
import { application, ask, page, pageOfApplication, served } from './browser'
import { smallReel } from './fixtures'

// Playing at the desk: the page decodes the file itself, and what it shows is the frame at the playhead.

const { folder } = application(async () => {
  const scene = (name: 'bell' | 'gannets') => ({ scene: name, frames: 600, name, reel: name.toUpperCase() })
  const silence = new Float32Array(1200 * 1920)
  await smallReel(path.join(folder, 'storage', 'reel.mov'), {
    shots: [scene('bell'), scene('gannets')],
    channels: [silence, silence],
  })
  await smallReel(path.join(folder, 'storage', 'plain.mov'), { pictures: 'v210' })
})
pageOfApplication()

/** The frame at the playhead, and the number that stands in the picture that is shown, a few times in a row. */
async function shown(times: number) {
  const seen = await page.evaluate(async (n) => {
    const out: { frame: number; luma: string; width: number }[] = []
    for (let tries = 0; out.length < n && tries < 80; tries++) {
      await new Promise((r) => setTimeout(r, 120))
      const canvas = document.querySelector<HTMLCanvasElement>('canvas.played')
      const frame = Number(document.querySelector('.marked .quiet')!.textContent!.replace(/\D/g, ''))
      if (!canvas || canvas.width < 400) continue
      const { data, width } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      let luma = ''
      for (let i = 0; i < data.length; i += 4)
        luma += String.fromCharCode(
          16 + ((0.2126 * data[i]! + 0.7152 * data[i + 1]! + 0.0722 * data[i + 2]!) * 219) / 255,
        )
      out.push({ frame, luma, width })
    }
    return out
  }, times)
  expect(seen).toHaveLength(times)
  return seen.map(({ frame, luma, width }) => ({ frame, counter: readCounter(Buffer.from(luma, 'latin1'), width) }))
}

const playhead = async () => Number((await page.locator('.marked .quiet').first().innerText()).replace(/\D/g, ''))

it('shows the frame at the playhead while it plays, on and back, at several speeds', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  // wide enough that pictures are not scaled down: their numbers are read pixel by pixel
  await page.setViewportSize({ width: 1900, height: 1000 })
  await page.goto(`${served.url}/desk`)
  await page.getByRole('textbox', { name: 'Playhead' }).waitFor()
  await page.keyboard.press('Home')
  await page.keyboard.press('l')
  await expect.poll(playhead).toBeGreaterThan(5)
  for (const [key, sign, speed] of [
    [null, 1, 1],
    ['l', 1, 2],
    ['j', -1, 1],
    ['j', -1, 2],
  ] as const) {
    if (key) await page.keyboard.press(key)
    if (sign * speed === -2) await page.getByText('−2 ×').waitFor()
    const seen = await shown(4)
    for (const { frame, counter } of seen) {
      expect(counter).not.toBeNull()
      // what falls further behind, on a slow machine, is not left standing
      expect(Math.abs(counter! - frame)).toBeLessThanOrEqual(25 * speed)
    }
    const counters = seen.map((s) => s.counter! * sign)
    expect(counters).toEqual([...counters].sort((a, b) => a - b))
    expect(counters.at(-1)).toBeGreaterThan(counters[0]!)
  }
  await page.keyboard.press('k')
  await expect.poll(async () => (await shown(1))[0]!.counter).toBe(await playhead())
  expect(await page.getByText('preview', { exact: true }).count()).toBe(0)
})

it('shows every frame that is stepped to, from pictures the page holds', async () => {
  await page.keyboard.press('Home')
  await expect.poll(async () => (await shown(1))[0]!.counter).toBe(0)
  await page.evaluate(() => performance.clearResourceTimings())
  // over the joints of what is held at a time, on and back
  for (const [key, times] of [
    ['ArrowDown', 55],
    ['ArrowUp', 30],
  ] as const)
    for (let i = 0; i < times; i++) {
      await page.keyboard.press(key)
      if (i % 6) continue
      await expect
        .poll(async () => {
          const [seen] = await shown(1)
          return seen!.counter! - seen!.frame
        })
        .toBe(0)
    }
  // the server was asked for no large picture of them
  const asked = await page.evaluate(
    () => performance.getEntriesByType('resource').filter((e) => e.name.includes('w=1040')).length,
  )
  expect(asked).toBe(0)
})

it('plays a region, and regions one after the other, skipping the rest', async () => {
  const [t] = await ask<{ id: string; splitVersion: number }[]>('timelines')
  const region = (id: string, from: number, to: number) => ({ id, name: id, in: from, out: to, metadata: {} })
  const regions = [region('a', 100, 115), region('b', 700, 712)]
  await ask(`timelines/${t!.id}/split`, 'PUT', { version: t!.splitVersion, split: { regions, markers: [] } })
  await page.locator('.region').nth(1).waitFor()
  await page.locator('.region .no').nth(0).click()
  await page.keyboard.press('p')
  await page.getByText('❚❚').waitFor()
  await page.getByText('❚❚').waitFor({ state: 'hidden' })
  expect(await playhead()).toBe(114)
  const seen = new Set<number>()
  await page.keyboard.press('Shift+P')
  await expect
    .poll(
      async () => {
        seen.add(await playhead())
        return (await page.getByText('❚❚').count()) === 0 && seen.has(711)
      },
      { interval: 20 },
    )
    .toBe(true)
  expect([...seen].filter((n) => !(n >= 100 && n < 115) && !(n >= 700 && n < 712))).toEqual([])
})

it('shows nothing of one timeline on another, also where the page cannot play it', async () => {
  await page.keyboard.press('Home')
  await expect.poll(async () => (await shown(1))[0]!.counter).toBe(0)
  const [first] = await ask<{ id: string }[]>('timelines')
  const second = await ask<{ id: string }>('timelines', 'POST', { media: { root: 'storage', path: 'plain.mov' } })
  const choice = page.getByRole('combobox', { name: 'Timeline in hand' })
  await choice.selectOption(second.id)
  await expect.poll(() => page.locator('.picture img').getAttribute('src')).toContain(second.id)
  await page.locator('.picture canvas').waitFor({ state: 'hidden' })
  await expect.poll(() => page.locator('.picture img').getAttribute('src')).toContain('w=1040')
  await choice.selectOption(first!.id)
  await page.locator('.picture canvas').waitFor()
})

it('looks into the picture and its sound: safe areas, waveform, difference, levels, channels heard', async () => {
  await page.goto(`${served.url}/desk`)
  await page.locator('#strip').waitFor()
  await page.keyboard.press('Home')
  await page.keyboard.press('g')
  await page.getByRole('img', { name: 'Safe areas (EBU R 95)' }).waitFor()
  await page.keyboard.press('w')
  const scope = page.getByRole('figure', { name: 'Waveform' })
  await scope.getByText(/^luma −?\d+\.\d … \d+\.\d %$/).waitFor()
  await page.keyboard.press('d')
  const difference = page.getByRole('group', { name: 'Difference' })
  await difference.getByText('the same, sample for sample').waitFor()
  await page.keyboard.press('Shift+ArrowDown')
  await difference.getByText(/mean \d+\.\d\d · largest \d+\.\d of 255/).waitFor()
  await page.keyboard.press('d')
  await difference.waitFor({ state: 'detached' })
  const channel = page.getByRole('button', { name: 'Hear channel 2' })
  expect(await channel.getAttribute('aria-pressed')).toBe('true')
  const asked = page.waitForRequest(/\/sound\?/)
  await page.getByRole('button', { name: 'Hear channel 1' }).click()
  expect(await channel.getAttribute('aria-pressed')).toBe('false')
  await page.keyboard.press(' ')
  expect(new URL((await asked).url()).searchParams.get('heard')).toBe('0')
  await page.keyboard.press(' ')
  await page.reload()
  await page.getByRole('img', { name: 'Safe areas (EBU R 95)' }).waitFor()
  await scope.waitFor()
  for (const key of ['g', 'w']) await page.keyboard.press(key)
})

it('gives ranges of the file, and none of what is not there', async () => {
  const [t] = await ask<{ id: string }[]>('timelines')
  const url = `${served.url}/api/timelines/${t!.id}/media`
  const part = await fetch(url, { headers: { range: 'bytes=4-7' } })
  expect([part.status, await part.text()]).toEqual([206, 'ftyp'])
  expect((await fetch(url, { headers: { range: 'bytes=99999999999-' } })).status).toBe(416)
  expect((await fetch(`${served.url}/api/timelines/none/media`)).status).toBe(404)
})
