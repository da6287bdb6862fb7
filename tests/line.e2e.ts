import { execSync } from 'node:child_process'
import { mkdirSync, readdirSync, readlinkSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import type { DeliverableSummary } from '../contract/deliverables'
import type { Finished, FinishedSummary } from '../contract/runs'
import type { ShownTimeline } from '../contract/timelines'
import { reelEdl } from '../demo/reel'
import { application, ask, countersInChromium, page, pageOfApplication, served } from './browser'
import { smallReel } from './fixtures'

// The whole line once, as an operator goes along it: bring in, split, outlets, checks, night run with a crash in the
// middle, handover.

const { storage, startAgain } = application(async () => {
  mkdirSync(path.join(storage, 'Ferry'))
  const plan = await smallReel(path.join(storage, 'Ferry', 'reel.mov'))
  writeFileSync(path.join(storage, 'Ferry', 'reel.edl'), reelEdl(plan, 'REEL'))
})
pageOfApplication()
const deliverables = async () => (await ask<{ list: DeliverableSummary[] }>('deliverables')).list

it('brings in a reel with its cuts from storage', async () => {
  await page.goto(served.url)
  await page.getByText('Drop an edited timeline here').waitFor()
  await page.getByRole('button', { name: 'From storage' }).click()
  await page.getByRole('button', { name: 'Ferry' }).click()
  await page.getByRole('button', { name: /reel\.mov/ }).click()
  await page.getByText('reel.edl').waitFor()
  expect(await page.getByLabel(/^Start of reel/).inputValue()).toBe('10:00:59:00')
})

it('takes its pictures for what a person says they are, until told to go by the file', async () => {
  const scan = page.getByLabel(/^Scan of reel/)
  const shown = () => scan.evaluate((s: HTMLSelectElement) => s.selectedOptions[0]!.text)
  expect(await shown()).toBe('progressive')
  const own = async () => (await ask<[ShownTimeline]>('timelines'))[0].info.video[0]
  await scan.selectOption({ label: 'taken for interlaced, top field first' })
  await expect.poll(own).toMatchObject({ scan: 'interlaced-tff', labelled: 'progressive' })
  await page.reload()
  expect(await shown()).toBe('taken for interlaced, top field first')
  await scan.selectOption({ label: 'progressive' })
  await expect.poll(own).not.toHaveProperty('labelled')
})

it('refuses foreign origins and paths outside the roots', async () => {
  const foreign = await fetch(`${served.url}/api/runs`, { headers: { origin: 'http://elsewhere.example' } })
  expect(foreign.status).toBe(403)
  const outside = await fetch(`${served.url}/api/timelines`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ media: { root: 'storage', path: '../../etc/passwd' } }),
  })
  expect(outside.status).toBe(403)
  expect(await outside.json()).toMatchObject({ error: { code: 'root.outside' } })
})

it('splits it on the keyboard, with undo', async () => {
  await page.getByRole('button', { name: 'To the desk' }).click()
  await page.locator('#strip').waitFor()
  await page.keyboard.press('Home')
  for (const name of ['Morning Chain', 'Fog Bell', 'The Gannet Run']) {
    await page.keyboard.press('Enter')
    const input = page.locator('input.name:focus')
    await input.waitFor()
    await page.keyboard.press('Control+A')
    await page.keyboard.type(name)
    await page.keyboard.press('Enter')
    await page.keyboard.press('PageDown')
  }
  const names = () => page.locator('input.name').evaluateAll((list) => list.map((i) => (i as HTMLInputElement).value))
  await expect.poll(names).toEqual(['Morning Chain', 'Fog Bell', 'The Gannet Run'])
  // a tail that catches two frames of the next shot is found, and mended from the audit line
  const tail = page.locator('.region').first().getByLabel('Last frame')
  await tail.click()
  await page.keyboard.type('+2')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: '1 sliver' }).waitFor()
  await page.getByRole('button', { name: /^Audit/ }).click()
  await page.getByRole('button', { name: 'Move the tail to the cut' }).click()
  await page.getByText('Nothing is wrong with this split').waitFor()
  await page.getByRole('button', { name: /^Audit/ }).click()
  await page.locator('h3').first().click()
  await page.keyboard.press('Control+z')
  await page.getByRole('button', { name: '1 sliver' }).waitFor()
  await page.keyboard.press('Control+Shift+z')
  await page.getByText('nothing wrong with this split').waitFor()
  // nothing is lost by a reload, whatever has reached the server by then
  await page.reload()
  await expect.poll(names).toEqual(['Morning Chain', 'Fog Bell', 'The Gannet Run'])
})

async function makeOutlet(name: string, recipe: string, spec: string, folderName: string) {
  await page.getByRole('button', { name: 'New outlet' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.locator('input').first().fill(name)
  await dialog.locator('select').nth(0).selectOption(recipe)
  await dialog.locator('select').nth(1).selectOption({ label: spec })
  await dialog.getByLabel('Name pattern').fill('{number}_{region}')
  await dialog.getByLabel('Name pattern').press('Enter')
  await dialog.locator('input.grow').fill(folderName)
  await dialog.getByRole('button', { name: 'Keep it on the shelf' }).click()
  await page.locator('.card strong', { hasText: name }).waitFor()
}

it('a dialog takes the focus as it opens, and leaves it where it is put then', async () => {
  await page.getByRole('link', { name: 'Shelf' }).click()
  await page.locator('button:enabled', { hasText: 'New outlet' }).waitFor()
  const focused = await page.evaluate(async () => {
    const button = [...document.querySelectorAll('button')].find((b) => b.textContent.includes('New outlet'))!
    button.click()
    for (let i = 0; i < 600 && !document.querySelector('[role=dialog] form input'); i++)
      await new Promise((resolve) => requestAnimationFrame(resolve))
    const at = () => [...document.querySelectorAll('[role=dialog] form input')].indexOf(document.activeElement!)
    const first = at()
    document.querySelectorAll<HTMLInputElement>('[role=dialog] form input')[1]!.focus()
    await new Promise((resolve) => setTimeout(resolve, 800))
    return [first, at()]
  })
  expect(focused).toEqual([0, 1])
  await page.keyboard.press('Escape')
  await page.getByRole('dialog').waitFor({ state: 'detached' })
})

it('sends the regions to two outlets', async () => {
  await page.getByRole('link', { name: 'Shelf' }).click()
  await page.getByText('free', { exact: false }).first().waitFor()
  await makeOutlet('Lantern', 'viewing', 'Lantern viewing copy', 'out/lantern')
  await makeOutlet('Osprey', 'rewrap', 'Osprey 29.97 drop-frame', 'out/osprey')
  await page.getByRole('link', { name: /^Outlets/ }).click()
  await page.getByLabel('all regions').first().check()
  await page.getByLabel('all regions').nth(1).check()
  await expect.poll(() => page.locator('td.on').count()).toBe(6)
  await expect.poll(() => page.locator('td .name').first().innerText()).toBe('01_Morning_Chain.mp4')
})

it('says what would be refused, and takes a waiver', async () => {
  await page.getByRole('link', { name: /^Checks/ }).click()
  await page.getByRole('button', { name: /Frame rate, Morning Chain → Osprey: fail/ }).click()
  await page.getByText('Frame rate will be 25; required: 29.97.').waitFor()
  for (const rule of ['Frame rate', 'Drop-frame', 'Raster']) {
    await page.getByRole('button', { name: new RegExp(`${rule}, Morning Chain → Osprey: fail`) }).click()
    await page.getByLabel('Reason').fill('test transmission')
    await page.getByLabel('Initials').fill('QP')
    await page.getByRole('button', { name: 'Waive', exact: true }).click()
    await page.getByRole('button', { name: new RegExp(`${rule}, Morning Chain → Osprey: waived`) }).waitFor()
  }
  // sound has been measured by now; whatever it fails is mended or waived as well
  await expect.poll(async () => (await deliverables()).some((d) => d.pending)).toBe(false)
  const fails = async () =>
    (await deliverables())
      .find((d) => d.title === 'Morning Chain → Osprey')!
      .trouble.filter((r) => r.verdict === 'fail')
      .map((r) => r.measure)
  expect(await fails()).toEqual(['loudness'])
  await page.getByRole('button', { name: /Integrated loudness, Morning Chain → Osprey: fail/ }).click()
  await page.getByLabel('Reason').fill('a tone')
  await page.getByRole('button', { name: 'Waive', exact: true }).click()
  await expect.poll(fails).toEqual([])
})

/** Process numbers of the server's workers. */
const workersOf = (pid: number) => execSync(`ps -o pid= --ppid ${pid}`).toString().trim().split(/\s+/).map(Number)

it('runs the night through a kill -9 in the middle', async () => {
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.getByRole('heading', { name: 'Stays behind' }).waitFor()
  await page.getByRole('button', { name: 'Start the night: 4 files' }).click()
  await page.getByText('You can leave the room').waitFor()
  interface Task {
    readonly state: string
    readonly framesDone: number
  }
  const run = async () => {
    const [newest] = await ask<{ id: string }[]>('runs')
    return newest && ask<{ items: Task[] }>(`runs/${newest.id}`)
  }
  await expect.poll(async () => (await run())?.items.some((i) => i.framesDone > 20), { interval: 100 }).toBe(true)
  for (const pid of [...workersOf(served.process.pid!), served.process.pid!]) process.kill(pid, 'SIGKILL')
  // what is half-written does not bear a final name
  expect(
    readdirSync(storage, { recursive: true })
      .map(String)
      .filter((f) => f.includes('Gannet')),
  ).toEqual([])
  await page.getByText('The server does not answer').waitFor()
  await startAgain()
  await page.getByRole('heading', { name: 'Morning sheet' }).waitFor({ timeout: 500_000 })
  await page.getByText('4 files done and proven').waitFor()
  expect(readdirSync(storage).filter((f) => f.startsWith('.velvet'))).toEqual(['.velvet-root'])
})

it('hands over proven files, and Chromium reads the same frames from them', async () => {
  await page.getByRole('link', { name: /^Handover/ }).click()
  await page.getByText('As written, against').waitFor()
  const list = await ask<FinishedSummary[]>('handover')
  const handed = await Promise.all(list.map((f) => ask<Finished>(`handover/${f.id}`)))
  expect(handed.map((h) => h.path).sort()).toEqual([
    'out/lantern/01_Morning_Chain.mp4',
    'out/lantern/02_Fog_Bell.mp4',
    'out/lantern/03_The_Gannet_Run.mp4',
    'out/osprey/01_Morning_Chain.mov',
  ])
  for (const h of handed) {
    const { in: from, out } = h.item.region
    const length = out - from
    const { numbers, duration } = await countersInChromium(
      page,
      `/api/handover/files/${h.item.id}`,
      [0, Math.floor(length / 2), length - 1],
      { num: 25, den: 1 },
    )
    expect(numbers).toEqual([from, from + Math.floor(length / 2), out - 1])
    expect(Math.abs(duration - length / 25)).toBeLessThan(0.06)
    expect(
      execSync(`sha256sum "${path.join(storage, h.path)}"`)
        .toString()
        .slice(0, 64),
    ).toBe(h.proof.files[0]!.sums.sha256)
  }
  // whoever seeks in a player breaks off one download after the other: no file stays open for them
  const url = `${served.url}/api/handover/files/${list[0]!.id}`
  for (let n = 0; n < 20; n++) {
    const gone = new AbortController()
    const answer = await fetch(url, { signal: gone.signal })
    await answer.body!.getReader().read()
    gone.abort()
  }
  const descriptors = () =>
    readdirSync(`/proc/${served.process.pid!}/fd`).filter((fd) => {
      try {
        return readlinkSync(`/proc/${served.process.pid!}/fd/${fd}`).startsWith(path.join(storage, 'out'))
      } catch {
        return false
      }
    })
  await expect.poll(descriptors).toEqual([])
  await page.getByRole('link', { name: 'report' }).first().click()
  await page.getByRole('heading', { name: /^Handover to/ }).waitFor()
})

it('opens a night as it was frozen, and says what has changed since', async () => {
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.locator('button.link').first().click()
  await page.getByRole('heading', { name: 'Morning sheet' }).waitFor()
  await page.getByText('nothing has changed since').first().waitFor()
  await page.getByRole('button', { name: 'Run it again as it was' }).waitFor()
})

it('says at the desk what became of a region: unchanged since, or which edge has changed', async () => {
  await page.getByRole('link', { name: /^Desk/ }).click()
  const row = page.locator('.region', { hasText: 'Lantern' }).nth(1)
  await row.click({ position: { x: 250, y: 70 } })
  await row.getByRole('link', { name: 'Lantern: unchanged since delivered as 02_Fog_Bell.mp4' }).waitFor()
  // the picture is held against the very frame of the file: coded, it is near
  await page.getByRole('button', { name: 'compare' }).first().click()
  const figures = page.getByRole('group', { name: 'Difference' }).getByText(/^mean/)
  await figures.waitFor()
  const mean = async () => Number(/^mean ([\d.]+)/.exec(await figures.innerText())![1])
  expect(await mean()).toBeLessThan(1.5)
  await page.keyboard.press('d')
  const last = row.getByRole('textbox', { name: 'Last frame' })
  await last.fill('-1')
  await last.press('Enter')
  await row.getByRole('link', { name: 'Lantern: last frame changed since 02_Fog_Bell.mp4' }).waitFor()
  await page.getByRole('link', { name: 'last frame changed', exact: true }).waitFor()
  await page.locator('.head', { hasText: 'Regions' }).click()
  await page.keyboard.press('Control+z')
  const link = row.getByRole('link', { name: 'Lantern: unchanged since delivered as 02_Fog_Bell.mp4' })
  await link.waitFor()
  await link.click()
  await page.getByRole('heading', { name: 'Fog Bell', level: 1 }).waitFor()
})

it('names the page in the browser, and says where nothing is kept', async () => {
  await page.goto(`${served.url}/nights?of=ferry`)
  await page.getByText('Nothing is kept at this address').waitFor()
  await page.getByText('/nights?of=ferry').waitFor()
  expect(await page.title()).toBe('Velvet Crane')
  await page.getByRole('link', { name: /^Handover/ }).click()
  await page.getByText('As written, against').waitFor()
  expect(await page.title()).toBe('Handover · Velvet Crane')
})
