import { chromium } from 'playwright-core'
import flags from '../scripts/chromium.json'

/** Scrolls the strip of the desk by wheel, one step a frame, and tells how long frames take, in milliseconds. */
export async function scrollDesk(
  executablePath: string,
  url: string,
): Promise<{ median: number; worst: number; idle: number; count: number }> {
  const browser = await chromium.launch({
    executablePath,
    args: flags,
  })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'dark' })
    for (let i = 0; i < 100; i++) {
      if (
        await page.goto(`${url}/desk`).then(
          (r) => r?.ok(),
          () => false,
        )
      )
        break
      await new Promise((r) => setTimeout(r, 300))
    }
    await page.locator('canvas').waitFor()
    await page.locator('.region').first().waitFor()
    await page.waitForTimeout(2000)
    return await page.evaluate(async () => {
      const canvas = document.querySelector('canvas')!
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
      const times = await run(240, () =>
        canvas.dispatchEvent(new WheelEvent('wheel', { deltaY: 90, bubbles: true, cancelable: true })),
      )
      return { median: times[120]!, worst: times.at(-1)!, idle: idle[30]!, count: times.length }
    })
  } finally {
    await browser.close()
  }
}
