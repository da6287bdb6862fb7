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

// A machine that cannot keep up records a tone with parts missing: their place is known from the clock, so ours keeps
// it and says so, where Chromium's decoder joins what there is. Without those holes both must be the same tone.

/** A tone without the silence that stands for parts that are missing (5 ms and more), and how many there were. */
function withoutHoles(tone: Float32Array): { joined: Float32Array; holes: number } {
  const joined: number[] = []
  let [holes, zeros] = [0, 0]
  tone.forEach((v, i) => {
    zeros = v === 0 ? zeros + 1 : 0
    joined.push(v)
    if (zeros < 240 || (i + 1 < tone.length && tone[i + 1] === 0)) return
    joined.length -= zeros
    if (i >= zeros && i + 1 < tone.length) holes++
  })
  return { joined: Float32Array.from(joined), holes }
}

/** How often a tone rises through zero. */
const crossings = (tone: Float32Array) => tone.filter((v, i) => i > 0 && tone[i - 1]! < 0 && v >= 0).length

/** The steps in a tone of 1 kHz at 48 kHz: packets that overlap make some. Its ends, of 0.2 s, are left out. */
const steps = (tone: Float32Array) =>
  tone
    .subarray(9600, tone.length - 9600)
    .filter((v, i, all) => i > 1 && Math.abs(v - 2 * all[i - 1]! + all[i - 2]!) > 0.05).length

/** The first channel of a recording (base64) as Chromium decodes it by itself, at 48 kHz. */
async function decoded(recorded: string): Promise<number[]> {
  const page = await browser.newPage()
  const samples = await page.evaluate(async (text) => {
    const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0))
    const heard = await new OfflineAudioContext(1, 1, 48000).decodeAudioData(bytes.buffer)
    return [...heard.getChannelData(0)]
  }, recorded)
  await page.close()
  return samples
}

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
    const own = (await sound.read(0, sound.samples))[0]!
    const { joined, holes } = withoutHoles(own)
    const theirs = Float32Array.from(await decoded(recorded))
    console.info(`${type}: ${frames} frames; holes ${holes}, steps ${steps(joined)}, in Chromium ${steps(theirs)}`)
    const told = media.info.problems.filter((p) => p.code === 'media.sound-missing')
    expect(told.length > 0).toBe(holes > 0)
    expect(crossings(joined.subarray(24000, 28800))).toBeGreaterThan(97)
    expect(crossings(joined.subarray(24000, 28800))).toBeLessThan(103)
    expect(steps(joined)).toBe(steps(theirs))
    await source.close()
  })
})
