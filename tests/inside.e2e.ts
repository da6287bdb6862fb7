import { mkdirSync, readFileSync, truncateSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import { application, page, pageOfApplication, record, served } from './browser'
import { smallReel } from './fixtures'

// Looking inside files through the interface: what the browser itself recorded, our own, and one that is cut off.

const { storage } = application(async () => {
  mkdirSync(path.join(storage, 'In'), { recursive: true })
  await smallReel(path.join(storage, 'In', 'reel.mov'))
})
pageOfApplication()

const row = (text: string) => page.getByRole('treeitem').filter({ hasText: text })
const field = (name: string) =>
  page.locator('.look dt', { hasText: new RegExp(`^${name}$`) }).locator('xpath=following-sibling::dd[1]')
/** What went over the network since it was last asked. */
const sent: string[] = []

it('says what it is for, and takes a file that is dropped, without sending it anywhere', async () => {
  await page.goto(`${served.url}/timelines`)
  await page.getByRole('link', { name: 'Inside' }).click()
  await page.getByRole('heading', { name: 'Look inside a file' }).waitFor()
  page.on('request', (r) => void (r.method() !== 'GET' && sent.push(`${r.method()} ${r.url()}`)))
  const recorded = await record(page, { mimeType: 'video/webm;codecs=vp9', fields: ['#204060'], each: 900 })
  await page.evaluate((base64) => {
    const bytes = Uint8Array.from(atob(base64!), (c) => c.charCodeAt(0))
    const data = new DataTransfer()
    data.items.add(new File([bytes], 'recorded by a browser.webm'))
    document.querySelector('.inside')!.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true }))
  }, recorded)
  await page.getByText('recorded by a browser.webm').first().waitFor()
  await page.getByRole('button', { name: 'open 18538067' }).click()
  await row('tracks').waitFor()
  expect(await row('cluster').count()).toBeGreaterThan(0)
  expect(await page.locator('.part .mark.fail').count()).toBe(0)
})

it('holds what its heads say against a recipient, and leaves open what nobody measured', async () => {
  await page.getByLabel('held against').selectOption('northmere')
  const rule = (label: string) => page.getByRole('row', { name: label, exact: false })
  await rule('Container').getByText('required: MXF').waitFor()
  expect(await rule('Frozen pictures').innerText()).toContain('not measured')
  expect(await rule('Integrated loudness').innerText()).toContain('there is no sound')
  expect(sent).toEqual([])
})

it('goes from part to part by keyboard, and shows what each says with its first bytes', async () => {
  const file = path.join(storage, 'In', 'reel.mov')
  await page.getByLabel('A file of this machine').setInputFiles(file)
  await row('movie').first().click()
  await page.keyboard.press('ArrowRight')
  await row('movie header').waitFor()
  await page.keyboard.press('ArrowDown')
  await expect.poll(() => field('timescale').innerText()).toBe('48000')
  expect(await page.getByRole('table', { name: 'First bytes' }).innerText()).toContain('mvhd')
  await page.keyboard.press('ArrowLeft')
  await page.keyboard.press('ArrowLeft')
  await expect.poll(() => row('movie header').count()).toBe(0)
})

it('marks where a file was cut off', async () => {
  const file = path.join(storage, 'cut.mov')
  const whole = readFileSync(path.join(storage, 'In', 'reel.mov'))
  writeFileSync(file, whole)
  truncateSync(file, whole.length - 5000)
  await page.getByLabel('A file of this machine').setInputFiles(file)
  await page.getByText('1 fault in what was opened').waitFor()
  await row('media data').click()
  await page
    .locator('.look')
    .getByText(/It should be [\d]+ bytes long; [\d]+ are there\./)
    .waitFor()
  writeFileSync(file, 'this is no film at all, whatever its name says')
  await page.getByLabel('A file of this machine').setInputFiles(file)
  await page.locator('.wrong').getByText('This is not a media file that can be read here').waitFor()
})

it('looks into a file of a folder on the server by ranges', async () => {
  await page.getByRole('link', { name: 'Received' }).click()
  await page.getByRole('button', { name: 'Choose a folder' }).click()
  await page.getByRole('button', { name: 'In', exact: true }).click()
  await page.getByRole('button', { name: 'Use this folder' }).click()
  await page.locator('.file', { hasText: 'reel.mov' }).click()
  await page.getByRole('link', { name: 'Look inside' }).click()
  await row('kind of file').waitFor()
  expect(await page.locator('.bar strong').innerText()).toBe('reel.mov')
  // only what is a media file by its name, and only below a storage root
  for (const [query, status] of [
    ['root=storage&path=In/none.txt', 400],
    ['root=storage&path=../../etc/passwd.mov', 403],
  ] as const)
    expect((await fetch(`${served.url}/api/received/bytes?${query}`)).status).toBe(status)
})
