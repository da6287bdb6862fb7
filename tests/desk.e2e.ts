import { readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import { reelEdl } from '../demo/reel'
import { application, ask, page, pageOfApplication, served } from './browser'
import { smallReel } from './fixtures'

// The desk by hand: dropping files, marking and trimming with the pointer, selecting shots, finding things.

const { folder } = application(async () => {
  const plan = await smallReel(path.join(folder, 'dropped.mov'), { bitrate: 500_000 })
  writeFileSync(path.join(folder, 'dropped.edl'), reelEdl(plan, 'DROPPED'))
})
pageOfApplication()

/** Drops files on the page as a person would. */
async function drop(files: readonly string[]) {
  const data = files.map((f) => ({ name: path.basename(f), text: readFileSync(f).toString('base64') }))
  const transfer = await page.evaluateHandle((list) => {
    const t = new DataTransfer()
    for (const f of list) t.items.add(new File([Uint8Array.from(atob(f.text), (c) => c.charCodeAt(0))], f.name))
    return t
  }, data)
  await page.dispatchEvent('.station', 'drop', { dataTransfer: transfer })
}

const regions = () =>
  page
    .locator('.region')
    .evaluateAll((list) =>
      list.map((r) => [
        r.querySelector<HTMLInputElement>('input.name')!.value,
        ...[...r.querySelectorAll<HTMLInputElement>('input.tc')].map((i) => i.value),
      ]),
    )
/** Where a frame lies on the page as the desk opens: 120 frames fill the height. */
const frameY = async (frame: number) => {
  const { y, height } = (await page.locator('#strip').boundingBox())!
  return y + 20 + (frame * (height - 60)) / 120
}

it('takes dropped files: media together with its list', async () => {
  await page.goto(`${served.url}/timelines`)
  await drop([path.join(folder, 'dropped.mov'), path.join(folder, 'dropped.edl')])
  await page.getByRole('article').waitFor()
  const text = await page.getByRole('article').innerText()
  expect(text).toContain('Incoming/dropped.mov')
  expect(text).toContain('cuts from dropped.edl')
  expect(text).toMatch(/Shots\s+3/)
})

it('says what is wrong with a dropped file that is none', async () => {
  writeFileSync(path.join(folder, 'letter.mp4'), 'Dear Quayhouse Post')
  await drop([path.join(folder, 'letter.mp4')])
  await page.getByText('This is not a media file that can be read here').waitFor()
  await page.locator('.coming button').click()
})

it('makes a region of a range dragged over the strip; edges snap to cuts', async () => {
  await page.getByRole('button', { name: 'To the desk' }).click()
  await page.locator('#strip').waitFor()
  const { x } = (await page.locator('#strip').boundingBox())!
  await page.mouse.move(x + 40, await frameY(1.2))
  await page.mouse.down()
  await page.mouse.move(x + 40, await frameY(30), { steps: 4 })
  await page.mouse.move(x + 40, await frameY(49.2), { steps: 4 })
  await page.mouse.up()
  await page.getByText('marked 10:00:59:00 → 10:01:00:24').waitFor()
  await page.keyboard.press('Enter')
  await page.locator('input.name:focus').waitFor()
  await page.keyboard.type('Morning Chain')
  await page.keyboard.press('Enter')
  expect(await regions()).toEqual([['Morning Chain', '10:00:59:00', '10:01:00:24']])
})

it('trims by dragging a bracket: held by the cut, or free of it with Alt', async () => {
  const { x } = (await page.locator('#strip').boundingBox())!
  const drag = async (from: number, to: number) => {
    await page.mouse.move(x + 284, await frameY(from))
    await page.mouse.down()
    await page.mouse.move(x + 284, await frameY(to), { steps: 5 })
    await page.mouse.up()
  }
  await page.keyboard.down('Alt')
  await drag(50, 44)
  await page.keyboard.up('Alt')
  expect((await regions())[0]![2]).toBe('10:01:00:18')
  await page
    .getByText('1 stretch', { exact: false })
    .or(page.getByText(/frames nobody delivers/))
    .first()
    .waitFor()
  await drag(44, 89.2)
  expect((await regions())[0]![2]).toBe('10:01:02:14')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  expect((await regions())[0]![2]).toBe('10:01:00:24')
})

it('rolls edges that lie together with Shift, as one step', async () => {
  const { x } = (await page.locator('#strip').boundingBox())!
  await page.keyboard.press('Home')
  await page.keyboard.press('Control+a')
  for (let i = 0; i < 20; i++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('/')
  await expect.poll(async () => (await regions()).length).toBe(2)
  await page.mouse.move(x + 284, await frameY(20))
  await page.keyboard.down('Shift')
  await page.keyboard.down('Alt')
  await page.mouse.down()
  await page.mouse.move(x + 284, await frameY(30), { steps: 4 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  await page.keyboard.up('Shift')
  expect((await regions()).map((r) => r.slice(1))).toEqual([
    ['10:00:59:00', '10:01:00:04'],
    ['10:01:00:05', '10:01:00:24'],
  ])
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await regions()).length).toBe(1)
})

it('makes a region of each selected shot, and Tab goes from name to name', async () => {
  const { x } = (await page.locator('#strip').boundingBox())!
  await page.keyboard.down('Control')
  await page.mouse.click(x + 140, await frameY(70))
  await page.mouse.click(x + 140, await frameY(100))
  await page.keyboard.up('Control')
  await page.keyboard.press('Shift+Enter')
  await page.locator('input.name:focus').waitFor()
  await page.keyboard.type('Fog Bell')
  await page.keyboard.press('Tab')
  await expect.poll(() => page.locator('input.name:focus').inputValue()).toBe('gannets')
  await page.keyboard.type('The Gannet Run')
  await page.keyboard.press('Enter')
  expect((await regions()).map((r) => r[0])).toEqual(['Morning Chain', 'Fog Bell', 'The Gannet Run'])
  await page.getByText('nothing wrong with this split').waitFor()
})

it('shows the exact frame at the playhead and the four frames at a region’s ends', async () => {
  await page
    .locator('.region')
    .nth(1)
    .click({ position: { x: 200, y: 70 } })
  await expect
    .poll(() => page.locator('.edges figcaption').allInnerTexts())
    .toEqual(['before\n01:00:24', 'first\n01:01:00', 'last\n01:02:14', 'after\n01:02:15'])
  await page.getByRole('textbox', { name: 'Playhead' }).fill('+12')
  await page.getByRole('textbox', { name: 'Playhead' }).press('Enter')
  await page.locator('.marked', { hasText: 'frame 62' }).waitFor()
  // decoded in the page, as wide as it is shown
  await page.locator('.picture canvas').waitFor()
  await page.getByText('preview', { exact: true }).waitFor({ state: 'detached' })
  const [drawn, shown] = await page
    .locator('.picture canvas')
    .evaluate((c: HTMLCanvasElement) => [c.width, c.clientWidth])
  expect(drawn).toBe(Math.min(640, shown!))
})

it('shows the whole at the edge: a click goes there, keys show the whole and the region', async () => {
  const whole = page.getByRole('scrollbar', { name: 'The whole timeline' })
  const inView = async () => Number(await whole.getAttribute('aria-valuenow'))
  await page.keyboard.press('r')
  await expect.poll(inView).toBeGreaterThan(40)
  const { height } = (await whole.boundingBox())!
  await whole.click({ position: { x: 6, y: height - 4 } })
  await expect.poll(inView).toBeGreaterThan(70)
  await whole.hover({ position: { x: 6, y: height / 4 } })
  await expect.poll(() => whole.getAttribute('title')).toMatch(/^10:01:0\d:\d\d · Morning Chain/)
  await page.keyboard.press('f')
  await expect.poll(inView).toBe(0)
})

it('splits, joins, deletes on keys; refuses a label that does not exist', async () => {
  await page.keyboard.press('/')
  await expect.poll(async () => (await regions()).length).toBe(4)
  await page.keyboard.press('\\')
  await expect.poll(async () => (await regions()).length).toBe(3)
  await page.keyboard.press('Delete')
  await expect.poll(async () => (await regions()).map((r) => r[0])).toEqual(['Morning Chain', 'The Gannet Run'])
  await page.keyboard.press('Control+z')
  const head = page.locator('.region').first().getByLabel('First frame')
  await head.fill('10:00:59:77')
  await head.press('Enter')
  expect(await head.getAttribute('class')).toContain('wrong')
  await head.press('Escape')
})

it('does not take a name that some system takes for another’s, and keeps what was typed until it is left', async () => {
  const name = page.locator('.region input.name').first()
  await name.fill('the gannet run')
  expect(await name.getAttribute('title')).toContain('some systems take it for “The Gannet Run”')
  await name.press('Enter')
  await page.locator('.problem', { hasText: 'some systems take it for' }).waitFor()
  expect(await name.evaluate((el) => el === document.activeElement)).toBe(true)
  await name.press('Escape')
  expect((await regions())[0]![0]).toBe('Morning Chain')
})

it('slips a region by keys, its length kept, and undoes it', async () => {
  const ends = async () => (await regions())[0]!.slice(1)
  const before = await ends()
  await page
    .locator('.region')
    .first()
    .click({ position: { x: 200, y: 80 } })
  await page.keyboard.press('Control+ArrowRight')
  await page.keyboard.press('Control+Shift+ArrowRight')
  expect(before).toEqual(['10:00:59:00', '10:01:00:24'])
  await expect.poll(ends).toEqual(['10:01:00:01', '10:01:02:00'])
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(ends).toEqual(before)
})

it('finds anything, shows all keys, and keeps the theme', async () => {
  await page.keyboard.press('Control+k')
  await page.getByLabel('Find anything').last().fill('gannet run')
  await page.keyboard.press('Enter')
  await page.locator('.marked', { hasText: 'frame 90' }).waitFor()
  await page.locator('h3').first().click()
  await page.keyboard.press('?')
  await page.getByText('a region for each selected shot').waitFor()
  await page.keyboard.press('Escape')
  await page.getByLabel('Change theme').click()
  await page.reload()
  await page.locator('#strip').waitFor()
  expect(await page.evaluate(() => document.documentElement.className)).toBe('paper')
})

it('notices when another window has changed the split', async () => {
  const [t] = await ask<[{ id: string; splitVersion: number }]>('timelines')
  await ask(`timelines/${t.id}/split`, 'PUT', {
    version: t.splitVersion,
    split: { regions: [{ id: 'z', name: 'From elsewhere', in: 0, out: 20, metadata: {} }], markers: [] },
  })
  await expect.poll(async () => (await regions()).map((r) => r[0])).toEqual(['From elsewhere'])
})

it('keeps what two windows change at once, and offers what both changed to different ends', async () => {
  const read = async () =>
    (await ask<[{ id: string; splitVersion: number; split: { regions: Record<string, unknown>[] } }]>('timelines'))[0]
  let open: () => void = () => undefined
  const gate = new Promise<void>((resolve) => (open = resolve))
  await page.route('**/split', async (r) => {
    await gate
    await r.continue()
  })
  const name = page.locator('.region input.name')
  await name.fill('Named here')
  await name.press('Enter')
  const t = await read()
  await ask(`timelines/${t.id}/split`, 'PUT', {
    version: t.splitVersion,
    split: { regions: [{ id: 'z', name: 'Named elsewhere', in: 0, out: 15, metadata: {} }], markers: [] },
  })
  open()
  const clash = page.getByLabel('Changed twice')
  await clash.getByText('Named here').waitFor()
  expect((await regions()).map((r) => [r[0], r[2]])).toEqual([['Named elsewhere', '10:00:59:14']])
  await page.unroute('**/split')
  await clash.getByRole('button', { name: 'take this' }).click()
  await expect.poll(async () => (await read()).split.regions[0]).toMatchObject({ name: 'Named here', out: 15 })
  await clash.waitFor({ state: 'detached' })
})

it('keeps what is being typed with its own region when another comes before it', async () => {
  const [t] = await ask<[{ id: string; splitVersion: number; split: { regions: object[]; markers: [] } }]>('timelines')
  await page.locator('#strip').focus()
  await page.keyboard.press('2')
  const names = page.locator('input[data-column=name]')
  await names.first().fill('Typed here')
  const before = { id: 'y', name: 'Before it', in: 0, out: 5, metadata: {} }
  await ask(`timelines/${t.id}/split`, 'PUT', {
    version: t.splitVersion,
    split: { ...t.split, regions: [before, ...t.split.regions] },
  })
  await expect.poll(() => names.count()).toBe(2)
  expect(await names.nth(1).inputValue()).toBe('Typed here')
  await names.nth(1).press('Enter')
  const read = async () => (await ask<[{ split: { regions: { id: string; name: string }[] } }]>('timelines'))[0]
  await expect
    .poll(async () => (await read()).split.regions.map((r) => [r.id, r.name]))
    .toEqual([
      ['y', 'Before it'],
      ['z', 'Typed here'],
    ])
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await read()).split.regions.at(-1)!.name).toBe('Named here')
  await page.keyboard.press('1')
})
