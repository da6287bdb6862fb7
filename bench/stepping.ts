import { existsSync } from 'node:fs'
import { mkdir } from 'node:fs/promises'
import path from 'node:path'
import { chromium, type Page } from 'playwright-core'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import { Session } from '../engine/session'
import { machineCodecs } from '../engine/worker/codecs'
import flags from '../scripts/chromium.json'
import { answers, builtServer, startServer } from './server'

const [frames, steps] = [500, 200]

/** From a key to the next frame's picture at the desk, 1080 lines, a key every 40 ms as a held one gives them. */
export async function stepping(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium'
  const title = 'stepping a frame on at the desk, 1080 lines'
  if (!existsSync(executablePath) || !existsSync(builtServer))
    return print(title, 'not measured: needs Chromium and a build (./velvet demo once)')
  const [storage, data] = [path.join(folder, 'storage'), path.join(folder, 'data')]
  await mkdir(storage, { recursive: true })
  const shots = [{ scene: 'gannets' as const, frames, name: 'gannets', reel: 'GANNETS' }]
  const silence = new Float32Array(frames * 1920)
  const plan = { width: 1920, height: 1080, rate: makeRate(25), dropFrame: false, start: 0, shots, bitrate: 6_000_000 }
  await makeReel(
    path.join(storage, 'reel.mp4'),
    { ...plan, pictures: 'h264', sound: 'aac', container: 'mp4', channels: [silence, silence] },
    machineCodecs(),
  )
  const engine = await Session.open({ data, roots: [storage], workers: 0, analyse: false })
  await engine.timelines.bringIn({ root: engine.roots.list[0]!.name, path: 'reel.mp4' })
  await engine.close()
  const port = '4192'
  const server = startServer(data, storage, port)
  const browser = await chromium.launch({ executablePath, args: flags })
  try {
    await answers(`http://127.0.0.1:${port}`)
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'dark' })
    await page.goto(`http://127.0.0.1:${port}/desk`)
    await page.locator('.played').waitFor()
    // the background pass is for both cores
    await page.locator('.area > .pass').waitFor({ state: 'detached', timeout: 300_000 })
    await page.waitForTimeout(3000)
    const { times, held } = await step(page)
    const range = `worst ${times.at(-1)!.toFixed(0)}; ${held} of ${steps} were held; goal ≤ 16`
    print(title, `${times[steps / 2]!.toFixed(1)} ms in the middle (${range})`)
  } finally {
    await browser.close()
    server.kill()
  }
}

/** Milliseconds from each key until the picture is drawn, in order of size; how many pictures the page held. */
function step(page: Page): Promise<{ times: number[]; held: number }> {
  return page.evaluate(async (steps) => {
    const frame = () => new Promise<number>((r) => requestAnimationFrame(r))
    const times: number[] = []
    let held = 0
    for (let i = 0; i < steps; i++) {
      const began = performance.now()
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true, cancelable: true }))
      // what a key changes is drawn before the next task
      await new Promise((r) => setTimeout(r, 0))
      times.push(performance.now() - began)
      await frame()
      if (![...document.querySelectorAll('.soft')].some((e) => e.textContent === 'preview')) held++
      await new Promise((r) => setTimeout(r, Math.max(0, 40 - (performance.now() - began))))
    }
    return { times: times.sort((a, b) => a - b), held }
  }, steps)
}
