import { existsSync } from 'node:fs'
import { mkdir, readFile, stat } from 'node:fs/promises'
import path from 'node:path'
import { chromium } from 'playwright-core'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import { machineCodecs } from '../engine/worker/codecs'
import { measureFile } from '../engine/worker/measurefile'
import flags from '../scripts/chromium.json'
import { pictureUnit, sparseMxf } from './broadcast'
import { answers, builtServer, startServer } from './server'

type Print = (name: string, figures: string) => void

/** Files from elsewhere: a hundred measured, against reading them; and the structure of a large one in the page. */
export async function elsewhere(folder: string, print: Print): Promise<void> {
  await mkdir(folder)
  await hundred(path.join(folder, 'hundred'), print)
  await structure(path.join(folder, 'large'), print)
}

/** Everything that is measured of a hundred files of four seconds, one after the other. */
async function hundred(folder: string, print: Print): Promise<void> {
  await mkdir(folder)
  const [count, frames] = [100, 100]
  const shots = [{ scene: 'gannets' as const, frames, name: 'gannets', reel: 'GANNETS' }]
  const sound = Float32Array.from({ length: frames * 1920 }, (_, i) => 0.2 * Math.sin(i / 15))
  const plan = { width: 640, height: 360, rate: makeRate(25), dropFrame: false, start: 0, shots, bitrate: 2_000_000 }
  const coded = { pictures: 'h264', sound: 'aac', container: 'mp4', channels: [sound, sound] } as const
  const file = path.join(folder, 'reel.mp4')
  await makeReel(file, { ...plan, ...coded }, machineCodecs())
  let began = performance.now()
  for (let i = 0; i < count; i++) await readFile(file)
  const read = performance.now() - began
  began = performance.now()
  for (let i = 0; i < count; i++) await measureFile(file)
  const measured = performance.now() - began
  const megabytes = (((await stat(file)).size * count) / 1e6).toFixed(0)
  const realTime = (count * frames) / 25 / (measured / 1000)
  print(
    `${count} files of 360 lines, ${megabytes} MB, measured`,
    `${(measured / 1000).toFixed(1)} s, ${realTime.toFixed(1)} × real time ` +
      `(${(measured / read).toFixed(0)} × reading them)`,
  )
}

/** From an address to the parts of an MXF of 20 GB on the page, of which only ranges are asked for. */
async function structure(folder: string, print: Print): Promise<void> {
  const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium'
  const title = 'the structure of an MXF of 20 GB in the page'
  if (!existsSync(executablePath) || !existsSync(builtServer))
    return print(title, 'not measured: needs Chromium and a build (./velvet demo once)')
  const storage = path.join(folder, 'storage')
  await mkdir(storage, { recursive: true })
  await sparseMxf(path.join(storage, 'large.mxf'), 30_000, await pictureUnit())
  const port = '4193'
  const server = startServer(path.join(folder, 'data'), storage, port)
  const browser = await chromium.launch({ executablePath, args: flags })
  try {
    await answers(`http://127.0.0.1:${port}`)
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto(`http://127.0.0.1:${port}/inside`)
    let bytes = 0
    page.on('response', (r) => {
      if (r.url().includes('/api/received/bytes')) bytes += Number(r.headers()['content-length'] ?? 0)
    })
    const query = new URLSearchParams({ url: '/api/received/bytes?root=storage&path=large.mxf', name: 'large.mxf' })
    const began = performance.now()
    await page.goto(`http://127.0.0.1:${port}/inside?${query.toString()}`)
    await page.getByRole('treeitem').first().waitFor()
    const ms = performance.now() - began
    print(title, `${ms.toFixed(0)} ms with the page, ${(bytes / 1e6).toFixed(1)} MB read`)
  } finally {
    await browser.close()
    server.kill()
  }
}
