import { writeFileSync } from 'node:fs'
import path from 'node:path'
import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPictures } from '../core/codec/pictures'
import { openSound } from '../core/codec/sound'
import { openMedia } from '../core/container/registry'
import { machineCodecs } from '../engine/worker/codecs'
import { openFile } from '../engine/storage/disk'
import { openBrowser, record } from './browser'
import { scratchFolder } from './fixtures'

// WebM, Matroska and fragmented MP4 as Chromium writes them: a red field that turns green, and a tone.

const { folder, remove } = scratchFolder()
let browser: Browser
beforeAll(async () => {
  browser = await openBrowser()
})
afterAll(async () => {
  await browser.close()
  remove()
})

describe.each([
  'video/webm;codecs=vp9,opus',
  'video/webm;codecs=vp8,opus',
  'video/x-matroska;codecs=avc1,opus',
  'video/mp4;codecs=avc1,opus',
  'video/mp4;codecs=vp9,opus',
])('%s', (type) => {
  it('is read, decoded and heard', async (test) => {
    const page = await browser.newPage()
    const recorded = await record(page, { mimeType: type, fields: ['#f00', '#0f0'], each: 1200, tone: true })
    await page.close()
    if (!recorded) return test.skip()
    const file = path.join(folder, `${type.replace(/\W/g, '_')}.webm`)
    writeFileSync(file, Buffer.from(recorded, 'base64'))
    const source = await openFile(file)
    const media = await openMedia(source)
    expect(media.info).toMatchObject({
      container: type.includes('matroska') ? 'matroska' : type.includes('mp4') ? 'mp4' : 'webm',
      video: [{ width: 640, height: 360 }],
      audio: [{ codec: 'opus', sampleRate: 48000 }],
    })
    const frames = media.info.video[0]!.frames
    expect(frames).toBeGreaterThan(20)
    const reds: number[] = []
    for await (const { picture } of openPictures(media, machineCodecs()).read({ in: 0, out: frames }))
      reds.push(picture.planes[2][100]!)
    expect([reds.length, reds[3]! > 200, reds.at(-3)! < 100]).toEqual([frames, true, true])
    // one change, and no frame out of order
    expect(reds.filter((v, i) => i > 0 && v > 150 !== reds[i - 1]! > 150)).toHaveLength(1)
    const sound = openSound(media, machineCodecs())!
    expect(Math.abs(sound.samples / 48000 - media.info.durationSeconds)).toBeLessThan(0.4)
    const [heard] = await sound.read(48000, 4800)
    let crossings = 0
    for (let i = 1; i < heard!.length; i++) if (heard![i - 1]! < 0 && heard![i]! >= 0) crossings++
    expect(crossings).toBeGreaterThan(95)
    expect(crossings).toBeLessThan(105)
    // a tone of 1 kHz has no steps: packets that overlap or leave holes would make some
    const all = (await sound.read(0, sound.samples))[0]!
    const inside = all.subarray(9600, all.length - 9600)
    let steepest = 0
    for (let i = 2; i < inside.length; i++)
      steepest = Math.max(steepest, Math.abs(inside[i]! - 2 * inside[i - 1]! + inside[i - 2]!))
    const clicks = inside.filter((v, i) => i > 1 && Math.abs(v - 2 * inside[i - 1]! + inside[i - 2]!) > 0.05).length
    console.info(
      `${type}: ${reds.length} of ${frames} frames in order, ${clicks} clicks, steepest ${steepest.toFixed(3)}`,
    )
    expect(steepest).toBeLessThan(0.05)
    await source.close()
  })
})
