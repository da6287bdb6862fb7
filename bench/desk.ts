import { existsSync } from 'node:fs'
import { mkdir, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { chromium, type Page } from 'playwright-core'
import { shippedRecipes } from '../core/recipe/registry'
import { openSpec, shippedSpecs } from '../core/spec/shipped'
import type { Spec } from '../core/spec/spec'
import { makeRate } from '../core/time/rate'
import { makeReel, reelEdl, type ReelPlan } from '../demo/reel'
import { Session } from '../engine/session'
import { machineCodecs } from '../engine/worker/codecs'
import flags from '../scripts/chromium.json'
import { builtServer, startServer } from './server'

const regions = 2000
/** Deliverables that are held against many rules. */
const strict = 1000
const rules = 40
const outlets = ['north', 'lantern', 'archive']

/** The desk in Chromium with 10 000 events and 2 000 regions for three outlets: scrolling, and an edit. */
type Print = (name: string, figures: string) => void

export async function desk(folder: string, print: Print): Promise<void> {
  const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium'
  const title = `desk with 10 000 events and ${regions} regions`
  if (!existsSync(executablePath) || !existsSync(builtServer))
    return print(title, 'not measured: needs Chromium and a build (./velvet demo once)')
  const storage = path.join(folder, 'desk')
  const data = path.join(folder, 'desk-data')
  await prepare(storage, data)
  const port = '4191'
  const server = startServer(data, storage, port)
  const browser = await chromium.launch({ executablePath, args: flags })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'dark' })
    const url = `http://127.0.0.1:${port}`
    await open(page, `${url}/desk`)
    await settled(page, url)
    print(title, scrollText(await scroll(page, '#strip', 'deltaY', 90)))
    print('the same while an edge is dragged', framesText(await dragged(page)))
    print('the same while it is zoomed', framesText(await zoomed(page)))
    const e = await edit(page)
    const times = `${e.median.toFixed(0)} ms in the middle, ${e.worst.toFixed(0)} ms at worst of ${e.count}`
    print('an edit of one region there, until it is shown', `${times} (goal < 50 ms)`)
    await pages(page, url, print)
  } finally {
    await browser.close()
    server.kill()
  }
}

async function prepare(storage: string, data: string): Promise<void> {
  const plan: ReelPlan = {
    width: 128,
    height: 72,
    rate: makeRate(25),
    dropFrame: false,
    start: 0,
    pictures: 'h264',
    sound: 'pcm',
    container: 'mov',
    bitrate: 200_000,
    channels: [new Float32Array(20_000 * 1920)],
    shots: Array.from({ length: 10_000 }, (_, i) => ({
      scene: i % 2 ? ('fog' as const) : ('black' as const),
      frames: 2,
      name: `Shot ${i}`,
      reel: `R${i}`,
      clean: true,
    })),
  }
  await mkdir(storage)
  await makeReel(path.join(storage, 'reel.mov'), plan, machineCodecs())
  await writeFile(path.join(storage, 'reel.edl'), reelEdl(plan, 'BENCH'))
  const engine = await Session.open({ data, roots: [storage], workers: 0 })
  const root = engine.roots.list[0]!.name
  const t = await engine.timelines.bringIn({ root, path: 'reel.mov' }, { cuts: { root, path: 'reel.edl' } })
  const list = Array.from({ length: regions }, (_, i) => ({
    id: `r${i}`,
    name: `Region ${i}`,
    in: i * 10,
    out: i * 10 + 10,
    metadata: {},
  }))
  await engine.timelines.saveSplit(t.id, { regions: list, markers: [] }, 1)
  for (const [i, id] of outlets.entries()) {
    const recipe = shippedRecipes()[i + 1]!
    await engine.outlets.save({ id, name: id, recipe, spec: 'open', pattern: '{number}_{region}', root, folder: id })
    await engine.outlets.choose(
      list.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: id })),
      true,
    )
  }
  await engine.outlets.saveSpec(manyRules())
  const recipe = shippedRecipes().find((r) => r.kind === 'master')!
  const place = { pattern: '{number}_{region}', root, folder: 'strict' }
  await engine.outlets.save({ id: 'strict', name: 'strict', recipe, spec: 'many', ...place })
  await engine.outlets.choose(
    list.slice(0, strict).map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'strict' })),
    true,
  )
  await engine.close()
}

/** A spec of as many rules as a strict recipient has: each measure that a shipped spec asks for, and again. */
function manyRules(): Spec {
  const known = shippedSpecs.flatMap((s) => s.rules)
  const list = Array.from({ length: rules }, (_, i) => ({ ...known[i % known.length]!, id: `rule-${i}` }))
  return { ...openSpec, id: 'many', name: 'Many rules', rules: list }
}

/** Waits until the background pass, and measuring what it found in regions, no longer take both cores. */
async function settled(page: Page, url: string): Promise<void> {
  for (let i = 0; i < 300; i++) {
    const { list } = (await (await fetch(`${url}/api/deliverables`)).json()) as { list: { pending: boolean }[] }
    if (!list.some((d) => d.pending)) break
    await page.waitForTimeout(2000)
  }
}

/** How long stations take to open anew, and how Checks scrolls. */
async function pages(page: Page, url: string, print: Print): Promise<void> {
  const shown = {
    desk: '.region .dest',
    outlets: 'td.on .name',
    checks: '.cellmark',
    run: '.plan, .night, .station',
    handover: '.station, .file',
  }
  for (const [name, sign] of Object.entries(shown)) {
    const times: number[] = []
    for (let i = 0; i < 7; i++) {
      await page.goto('about:blank')
      await page.goto(`${url}/${name}`, { waitUntil: 'commit' })
      times.push(await shownAfter(page, sign))
    }
    times.sort((a, b) => a - b)
    print(`opening ${name} there`, `${times[3]!.toFixed(0)} ms (worst ${times[6]!.toFixed(0)}; goal < 1000)`)
  }
  await page.goto(`${url}/checks`)
  await page.locator('.cellmark').first().waitFor()
  await page.waitForTimeout(2000)
  const all = 3 * regions + strict
  print(
    `Checks of ${all} deliverables, ${strict} × ${rules} rules`,
    scrollText(await scroll(page, '.grid', 'left', 90)),
  )
}

async function open(page: Page, url: string): Promise<void> {
  for (let i = 0; i < 100; i++) {
    const there = await page.goto(url).then(
      (r) => r?.ok(),
      () => false,
    )
    if (there) break
    await new Promise((r) => setTimeout(r, 300))
  }
  await page.locator('#strip').waitFor()
  await page.locator('.region .dest').first().waitFor()
  await page.waitForTimeout(2000)
}

/** Milliseconds from the start of navigation until the frame after the one in which something stands in the page. */
function shownAfter(page: Page, sign: string): Promise<number> {
  return page.evaluate(async (sign) => {
    const frame = () => new Promise<number>((r) => requestAnimationFrame(r))
    while (!document.querySelector(sign)) await frame()
    await frame()
    return performance.now()
  }, sign)
}

interface Scrolled {
  readonly median: number
  readonly worst: number
  readonly idle: number
  readonly count: number
}

const scrollText = ({ median, worst, idle, count }: Scrolled) =>
  `${median.toFixed(1)} ms a frame while scrolling ` +
  `(worst of ${count}: ${worst.toFixed(1)} ms; idle ${idle.toFixed(1)} ms)`

const framesText = (times: readonly number[]) => {
  const at = (share: number) => times[Math.min(times.length - 1, Math.floor(share * times.length))]!
  const most = `99 of 100 within ${at(0.99).toFixed(1)} ms, of ${times.length}`
  return `${at(0.5).toFixed(1)} ms a frame, ${most} (goal 16.7 ms)`
}

/** How long frames take while something is done by the mouse, in order of length, ms. */
async function framesWhile(page: Page, act: () => Promise<void>): Promise<number[]> {
  await page.evaluate(() => {
    const counting = { on: true, times: [] as number[] }
    let last = 0
    const step = (now: number) => {
      if (last) counting.times.push(now - last)
      last = now
      if (counting.on) requestAnimationFrame(step)
    }
    requestAnimationFrame(step)
    Object.assign(window, { counting })
  })
  await act()
  return page.evaluate(() => {
    const { counting } = window as unknown as { counting: { on: boolean; times: number[] } }
    counting.on = false
    return counting.times.sort((a, b) => a - b)
  })
}

/** Drags the tail of a region up and down, which trims it at every move. */
async function dragged(page: Page): Promise<number[]> {
  await page.keyboard.press('Home')
  await page.keyboard.press('r')
  const { x, y } = (await page.locator('#strip').boundingBox())!
  // ten frames as large as they get, below twenty pixels
  const tail = y + 20 + 10 * 24
  await page.mouse.move(x + 284, tail)
  await page.mouse.down()
  const times = await framesWhile(page, async () => {
    for (let i = 0; i < 200; i++) await page.mouse.move(x + 284, tail - 200 + 150 * Math.cos(i / 12))
  })
  await page.mouse.up()
  await page.keyboard.press('Control+z')
  return times
}

/** Zooms in and out about the middle, by the wheel. */
async function zoomed(page: Page): Promise<number[]> {
  const { x, y, height } = (await page.locator('#strip').boundingBox())!
  await page.mouse.move(x + 150, y + height / 2)
  await page.keyboard.down('Control')
  const times = await framesWhile(page, async () => {
    for (let i = 0; i < 200; i++) await page.mouse.wheel(0, i % 80 < 40 ? 40 : -40)
  })
  await page.keyboard.up('Control')
  return times
}

/** Scrolls the strip by wheel, or else what is `sign`, one step a frame; how long frames take, in milliseconds. */
function scroll(page: Page, sign: string, way: 'deltaY' | 'left', step: number): Promise<Scrolled> {
  return page.evaluate(
    async ({ sign, way, step }) => {
      const element = document.querySelector(sign)!
      const frame = () => new Promise<number>((r) => requestAnimationFrame(r))
      const run = async (steps: number, each: () => void) => {
        const times: number[] = []
        let last = await frame()
        for (let i = 0; i < steps; i++) {
          each()
          const now = await frame()
          times.push(now - last)
          last = now
        }
        return times.sort((a, b) => a - b)
      }
      const idle = await run(60, () => undefined)
      const times = await run(240, () => {
        if (way === 'left') element.scrollBy(step, 0)
        else element.dispatchEvent(new WheelEvent('wheel', { deltaY: step, bubbles: true, cancelable: true }))
      })
      return { median: times[120]!, worst: times.at(-1)!, idle: idle[30]!, count: times.length }
    },
    { sign, way, step },
  )
}

/** Splits a region and undoes it by keys, and tells how long it takes until the rows and the strip are drawn anew. */
function edit(page: Page): Promise<{ median: number; worst: number; count: number }> {
  return page.evaluate(async () => {
    const press = (key: string, ctrlKey = false) =>
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, ctrlKey, bubbles: true, cancelable: true }))
    const count = () => document.querySelector('.rows h3 .num')!.textContent
    const frame = () => new Promise<number>((r) => requestAnimationFrame(r))
    const painted = () =>
      new Promise((r) => {
        const { port1, port2 } = new MessageChannel()
        port1.onmessage = r
        port2.postMessage(null)
      })
    const times: number[] = []
    for (let i = 0; i < 5; i++) press('ArrowDown')
    for (let i = 0; i < 20; i++) {
      await new Promise((r) => setTimeout(r, 700))
      const before = count()
      const began = performance.now()
      if (i % 2 === 0) press('/')
      else press('z', true)
      // the frame in which the new count stands, and what comes after it is painted
      do await frame()
      while (count() === before && performance.now() - began < 5000)
      await painted()
      times.push(performance.now() - began)
    }
    times.sort((a, b) => a - b)
    return { median: times[10]!, worst: times.at(-1)!, count: times.length }
  })
}
