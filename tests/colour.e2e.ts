import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openMedia } from '../core/container/registry'
import { decodeV210, v210Size } from '../core/codec/v210/v210'
import { openFile } from '../engine/storage/disk'
import { openBrowser, record, seeking } from './browser'
import { drain, outlet, recipe, scratchFolder, testEngine } from './fixtures'

// A full-range recording of the browser becomes a viewing copy and a master: what does the browser see in them?

const { folder, remove } = scratchFolder()
const fields = ['#c01818', '#18c018', '#1818c0', '#f4f4f4', '#808080', '#101010']
let browser: Browser
beforeAll(async () => {
  browser = await openBrowser()
})
afterAll(async () => {
  await browser.close()
  remove()
})

interface Sample {
  readonly yuv: readonly number[]
  readonly fullRange: boolean | null
  readonly matrix: string | null
}

/** The middle of each field as the browser decodes it, and how it says that is to be understood. */
async function decoded(page: Page, base64: string): Promise<Sample[]> {
  const seek = await seeking(page)
  return page.evaluate(
    async ({ seek, base64 }) => {
      const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))
      const video = document.createElement('video')
      video.muted = true
      video.src = URL.createObjectURL(new Blob([bytes], { type: 'video/mp4' }))
      await new Promise((resolve, reject) => {
        video.onloadeddata = resolve
        video.onerror = () => reject(new Error(video.error?.message))
      })
      const samples = []
      for (let i = 0; i < 6; i++) {
        await seek(video, i * 0.5 + 0.3, 0.2)
        const frame = new VideoFrame(video)
        const data = new Uint8Array(frame.allocationSize())
        const layout = await frame.copyTo(data)
        const at = (plane: number, x: number, y: number) => data[layout[plane]!.offset + y * layout[plane]!.stride + x]!
        const half = frame.format === 'NV12' ? [at(1, 320, 90), at(1, 321, 90)] : [at(1, 160, 90), at(2, 160, 90)]
        const { fullRange, matrix } = frame.colorSpace
        samples.push({ yuv: [at(0, 320, 180), ...half], fullRange, matrix })
        frame.close()
      }
      return samples
    },
    { seek, base64 },
  )
}

/** R′G′B′ of BT.709 (ITU-R BT.709 3.3 to 3.5), 0 … 255. The browser's own display rounds its factors too coarsely. */
function rgb({ yuv: [y, u, v], fullRange }: Sample): number[] {
  const luma = fullRange ? y! / 255 : (y! - 16) / 219
  const [cb, cr] = [u!, v!].map((c) => (c - 128) / (fullRange ? 255 : 224)) as [number, number]
  const r = luma + 1.5748 * cr
  const b = luma + 1.8556 * cb
  return [r, (luma - 0.2126 * r - 0.0722 * b) / 0.7152, b].map((x) => Math.max(0, Math.min(255, 255 * x)))
}

it('keeps its colours in a viewing copy, and is legal in a master', async () => {
  const page = await browser.newPage()
  const recorded = (await record(page, { mimeType: 'video/mp4;codecs=avc1', fields, each: 500, bitrate: 8_000_000 }))!
  const storage = path.join(folder, 'storage')
  mkdirSync(storage)
  writeFileSync(path.join(storage, 'capture.mp4'), Buffer.from(recorded, 'base64'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'capture.mp4' })
  const source = t.info.video[0]!
  expect(source.colour?.fullRange).toBe(true)
  const range = { in: 0, out: source.frames }
  await engine.timelines.saveSplit(
    t.id,
    { regions: [{ id: 'r', name: 'Fields', ...range, metadata: {} }], markers: [] },
    1,
  )
  const made = ['viewing', 'master'] as const
  for (const kind of made) {
    const settings = kind === 'viewing' ? { pictureBitrate: 8000, width: null, height: null } : {}
    await engine.outlets.save(outlet(kind, 'storage', recipe(kind, { ...settings, channels: 'none' })))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: kind }], true)
  }
  await engine.nights.start('Night', 2)
  await drain(engine)
  const files = new Map((await engine.handover.list()).map((h) => [h.outletId, h]))
  for (const kind of made) expect([kind, files.get(kind)?.verdict]).toEqual([kind, 'pass'])
  const copy = path.join(storage, files.get('viewing')!.path)
  const opened = await openFile(copy)
  expect((await openMedia(opened)).info.video[0]!.colour).toEqual({ ...source.colour, fullRange: false })
  await opened.close()
  const before = await decoded(page, recorded)
  const after = await decoded(page, readFileSync(copy).toString('base64'))
  expect(after.map((s) => [s.fullRange, s.matrix])).toEqual(after.map(() => [false, 'bt709']))
  const off = before.flatMap((field, i) => rgb(field).map((v, c) => Math.abs(v - rgb(after[i]!)[c]!)))
  console.info(`flat colours of source and viewing copy: at most ${Math.max(...off).toFixed(2)} of 255 apart`)
  expect(Math.max(...off), JSON.stringify({ before, after })).toBeLessThanOrEqual(2)
  // 10-bit codes of the master: nothing that is kept for timing references, white at most at its peak
  const master = await openFile(path.join(storage, files.get('master')!.path))
  const media = await openMedia(master)
  const { offset } = media.video[0]!.sample(media.video[0]!.sampleOfFrame(10))
  const { planes } = decodeV210(await master.read(offset, v210Size(640, 360)), 640, 360)
  const codes = planes.flatMap((p) => [Math.min(...p.slice(0, 50_000)), Math.max(...p.slice(-50_000))])
  expect(codes.every((v) => v >= 4 && v <= 1019)).toBe(true)
  expect(codes[0]! >= 60 && codes[1]! <= 944).toBe(true)
  await master.close()
  await engine.close()
  await page.close()
})
