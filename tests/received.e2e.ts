import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import { application, ask, page, pageOfApplication, served } from './browser'
import { sumsOfFile } from '../engine/storage/hashing'
import { smallReel } from './fixtures'

// Files from elsewhere through the interface: a folder is taken, measured and held against a specification.

const { storage } = application(async () => {
  mkdirSync(path.join(storage, 'From Osprey', 'tape 2'), { recursive: true })
  await smallReel(path.join(storage, 'From Osprey', 'bulletin.mov'), { container: 'mov' })
  copyFileSync(path.join(storage, 'From Osprey', 'bulletin.mov'), path.join(storage, 'From Osprey/tape 2/again.mov'))
  writeFileSync(path.join(storage, 'From Osprey', 'noise.mp4'), 'this is no film')
})
pageOfApplication()

const file = (name: string) => page.locator('.file', { hasText: name })

it('says what it is for until a folder is taken', async () => {
  await page.goto(`${served.url}/timelines`)
  await page.getByRole('link', { name: 'Received' }).click()
  await page.getByText('Files from elsewhere').first().waitFor()
})

it('measures a folder, file by file, and says why each is not as it should be', async () => {
  await page.getByLabel('held against').selectOption('northmere')
  await page.getByRole('button', { name: 'Choose a folder' }).click()
  const inside = page.getByRole('button', { name: 'From Osprey' })
  await inside.waitFor()
  // a folder that is slow to open is not taken for the one before
  await page.route('**/api/files?*', async (r) => {
    await new Promise((resolve) => setTimeout(resolve, 400))
    await r.continue()
  })
  await inside.click()
  await page.getByRole('button', { name: 'Use this folder' }).click()
  await page.unroute('**/api/files?*')
  await expect.poll(() => page.locator('.file').count()).toBe(3)
  await file('bulletin.mov').getByText('Container is MOV; required: MXF.').waitFor()
  expect(await file('again.mov').innerText()).toContain('tape 2/again.mov')
  expect(await file('noise.mp4').innerText()).not.toContain('not met')
  await page.getByText('2 fails').waitFor()
  await page.getByText('1 cannot be read').waitFor()
})

it('reads every rule of the file in hand, by keyboard from file to file', async () => {
  await file('bulletin.mov').click()
  const row = (label: string) => page.getByRole('row', { name: label })
  await row('Container').getByText('required: MXF').waitFor()
  expect(await row('Frame rate').innerText()).toContain('25')
  expect(await row('Integrated loudness').innerText()).toMatch(/LUFS/)
  await page.keyboard.press('ArrowDown')
  await page.locator('.file.hand', { hasText: 'noise.mp4' }).waitFor()
  await page.locator('.detail .note').waitFor()
})

it('holds what was measured against another recipient at once, and remembers both', async () => {
  await page.getByLabel('held against').selectOption('lantern')
  await expect.poll(() => file('bulletin.mov').innerText()).not.toContain('required: MXF')
  await page.reload()
  await page.getByText('storage/From Osprey').waitFor()
  expect(await page.getByLabel('held against').inputValue()).toBe('lantern')
  await file('bulletin.mov').waitFor()
})

it('measures what has come since when it is asked to', async () => {
  const later = path.join(storage, 'From Osprey', 'late.mov')
  await smallReel(later, { start: 0 })
  await page.getByLabel('held against').selectOption('northmere')
  await file('late.mov').getByText('not measured yet').waitFor()
  await page.getByRole('button', { name: 'measure 1 new file' }).click()
  await file('late.mov').getByText('Container is MOV; required: MXF.').waitFor()
})

it('says which file is not what was sent, and which is not here, by the list that came with them', async () => {
  const { md5 } = await sumsOfFile(path.join(storage, 'From Osprey', 'late.mov'), ['md5'])
  const list = `${md5}  late.mov\n${md5}  bulletin.mov\n${md5}  gone.mov\n`
  writeFileSync(path.join(storage, 'From Osprey', 'monday.md5'), list)
  await page.reload()
  await page.getByText('1 not here').waitFor()
  await file('gone.mov').getByText('monday.md5 names this file, and it is not here.').waitFor()
  await page.getByRole('button', { name: 'measure 2 new files' }).click()
  await file('late.mov').click()
  const row = page.getByRole('row', { name: 'File itself' })
  await row.getByText('whole, with the MD5 in monday.md5').waitFor()
  await file('bulletin.mov').click()
  await row.getByText('not what was sent (it has not the MD5 in monday.md5)').waitFor()
})

it('measures by itself what comes into a folder that is watched, and finds it again', async () => {
  await page.getByLabel('watch it').check()
  await smallReel(path.join(storage, 'From Osprey', 'night.mov'), { start: 100 })
  await file('night.mov').getByText('Container is MOV; required: MXF.').waitFor()
  await page.evaluate(() => localStorage.removeItem('velvet.received'))
  await page.reload()
  await page.getByText('storage/From Osprey').waitFor()
  await expect.poll(() => page.getByLabel('watch it').isChecked()).toBe(true)
  await page.getByLabel('watch it').uncheck()
  await expect.poll(() => ask('received/watch')).toEqual({ folder: null })
})
