// Refreshes docs/screenshots/ from a running demo (./velvet demo) whose night has been run.
import { readFileSync } from 'node:fs'
import { chromium } from 'playwright-core'

const read = (file) => JSON.parse(readFileSync(new URL(file, import.meta.url), 'utf8'))
const url = process.argv[2] ?? 'http://127.0.0.1:4180'
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: read('./chromium.json'),
})
const theme = process.argv[3]
const deskViews = [
  ['looking', ['g', 'w']],
  ['table', ['2']],
  ['edges', ['3']],
  ['split', ['1', 's', 'ArrowDown', 'ArrowDown']],
]
const stations = read('../app/lib/stations.json')
for (const { path, shown } of stations) {
  const name = path.slice(1)
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'dark' })
  await page.addInitScript((t) => localStorage.setItem('velvet.theme', t), theme || shown || 'velvet')
  await page.goto(`${url}${path}`)
  await page.getByText('Opening …').waitFor({ state: 'detached' })
  await page.waitForLoadState('networkidle', { timeout: 4000 }).catch(() => undefined)
  await page.waitForTimeout(2000)
  if (name === 'run')
    await page
      .getByRole('button', { name: 'Back to the run' })
      .click()
      .catch(() => undefined)
  if (name === 'received') {
    await page.getByRole('button', { name: /folder/ }).click()
    await page.getByRole('button', { name: 'Deliveries' }).click()
    await page.getByRole('button', { name: 'Use this folder' }).click()
    await page.getByLabel('held against').selectOption('osprey')
    await page.locator('.file').first().waitFor()
    await page.waitForTimeout(2000)
    await page.getByText('being measured').waitFor({ state: 'detached', timeout: 180_000 })
  }
  if (name === 'inside') {
    const list = await (await fetch(`${url}/api/handover`)).json()
    const master = list.find((f) => f.path.endsWith('.mxf'))
    await page.goto(`${url}/inside?url=/api/handover/files/${master.id}&name=${master.path.split('/').at(-1)}`)
    await page.getByRole('button', { name: 'open header' }).click()
    await page.getByRole('treeitem').filter({ hasText: 'timecode' }).first().click()
    await page.locator('.look dl').waitFor()
  }
  await page.waitForTimeout(500)
  const shoot = (as) => page.screenshot({ path: `${process.argv[4] ?? 'docs/screenshots'}/${as}.png` })
  await shoot(name)
  // the same split, shown in other ways
  for (const [view, keys] of name === 'desk' ? deskViews : []) {
    for (const key of keys) await page.keyboard.press(key)
    await page.waitForTimeout(1500)
    await shoot(`desk-${view}`)
  }
  if (name === 'outlets') {
    await page.locator('td.on').filter({ hasText: '.mp4' }).first().click()
    await page.getByRole('button', { name: 'Try settings' }).click()
    await page.locator('.pick:not(:disabled)').nth(2).waitFor({ timeout: 120_000 })
    await page.waitForTimeout(2000)
    await shoot('outlets-try')
  }
  await page.close()
}
await browser.close()
