import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { memorySource, toBase64 } from '../core/bytes'
import { h264Intra } from '../core/codec/h264-intra/codec'
import { IntraDecoder } from '../core/codec/h264-intra/decode'
import { IntraEncoder } from '../core/codec/h264-intra/encode'
import { unitsOf } from '../core/codec/nal'
import { profileOf, type Format } from '../core/codec/h264-intra/write'
import { mxf } from '../core/container/mxf/container'
import { openMedia } from '../core/container/registry'
import { bt709 } from '../core/media/colour'
import { toChroma422, toDepth, type Picture } from '../core/picture/picture'
import { drawFrame, readCounter } from '../demo/reel'
import { openBrowser } from './browser'
import { smallPlan } from './fixtures'
import { chance, hardPicture, smallFormat } from '../core/codec/h264-intra/hardpictures'

// What our own encoder of intra pictures writes, decoded by Chromium: every sample as our own decoder has it.

let browser: Browser
let server: Server
let page: Page

beforeAll(async () => {
  browser = await openBrowser()
  server = createServer((_, answer) => answer.setHeader('content-type', 'text/html').end('<!doctype html>'))
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done))
  page = await browser.newPage()
  await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`)
})
afterAll(async () => {
  await browser.close()
  server.close()
})

/** Decodes access units in the browser; the planes of each picture as text, and what the browser calls their kind. */
function decodeThere(codec: string, units: readonly Uint8Array[]) {
  return page.evaluate(
    async ({ codec, units }) => {
      const out: { format: string | null; width: number; height: number; bytes: string }[] = []
      const read: Promise<void>[] = []
      const text = (b: Uint8Array) => {
        let s = ''
        for (let i = 0; i < b.length; i += 8192) s += String.fromCharCode(...b.subarray(i, i + 8192))
        return btoa(s)
      }
      let fault: string | null = null
      const decoder = new VideoDecoder({
        output(frame) {
          const { width, height } = frame.visibleRect!
          const place = out.push({ format: frame.format, width, height, bytes: '' }) - 1
          const bytes = new Uint8Array(frame.allocationSize())
          read.push(
            frame.copyTo(bytes).then(() => {
              out[place]!.bytes = text(bytes)
              frame.close()
            }),
          )
        },
        error: (e) => (fault = e.message),
      })
      decoder.configure({ codec, hardwareAcceleration: 'prefer-software' })
      units.forEach((u, timestamp) =>
        decoder.decode(
          new EncodedVideoChunk({
            type: 'key',
            timestamp: timestamp * 40_000,
            data: Uint8Array.from(atob(u), (c) => c.charCodeAt(0)),
          }),
        ),
      )
      await decoder.flush().catch((e: Error) => (fault = e.message))
      await Promise.all(read)
      return { fault, pictures: out }
    },
    { codec, units: units.map(toBase64) },
  )
}

const format = (f: Partial<Format>) => smallFormat({ width: 240, height: 176, ...f })
const formats: [string, Format][] = [
  ['10 bit 4:2:2, frames', format({})],
  ['10 bit 4:2:0, frames', format({ chroma: 1, height: 184 })],
  ['10 bit 4:2:2, upper field first', format({ fields: 'top', height: 192 })],
  ['10 bit 4:2:2, lower field first', format({ fields: 'bottom', height: 192 })],
  ['10 bit 4:2:0, fields', format({ fields: 'top', chroma: 1, height: 192 })],
  ['8 bit 4:2:2, frames', format({ depth: 8 })],
  ['10 bit 4:2:2, adaptive frames', format({ adaptive: true, height: 192 })],
  ['10 bit 4:2:0, adaptive frames', format({ adaptive: true, chroma: 1, height: 180 })],
  ['8 bit 4:2:0, adaptive frames', format({ adaptive: true, chroma: 1, depth: 8, height: 192 })],
]

const coded = formats.flatMap(([name, f]) =>
  [false, true].map((arithmetic) => [`${name}, by ${arithmetic ? 'CABAC' : 'CAVLC'}`, { ...f, arithmetic }] as const),
)

it.each(coded)('%s', async (_, f) => {
  const encoder = new IntraEncoder(f)
  const of = chance(7)
  const pair = () => of(2) === 1
  const chosen = { kind: () => of(16) % 5, mode: (m: readonly number[]) => m[of(m.length)]!, pair }
  const least = -6 * (f.depth - 8)
  const units: Uint8Array[] = []
  for (const [i, qp] of [least, 0, 12, 20, 26, 34, 42, 51].entries()) {
    encoder.load(hardPicture(f, i, 1 << (f.depth - 2 - (i % 5))))
    const manner = { slices: 1 + (i % 3), qp: (line: number) => Math.max(least, qp - (line % 4) * 4) }
    units.push(encoder.encode({ ...manner, filtered: i % 2 === 1 }))
    units.push(encoder.encode({ ...manner, filtered: i % 2 === 0, chosen }))
  }
  await compare(f, units)
})

/** Holds what Chromium makes of access units against what our own decoder does, sample by sample. */
async function compare(f: Format, units: readonly Uint8Array[]): Promise<void> {
  const decoder = new IntraDecoder()
  const profile = profileOf(f).toString(16)
  const { fault, pictures } = await decodeThere(`avc1.${profile}10${f.level.toString(16)}`, units)
  expect(fault).toBeNull()
  expect(pictures).toHaveLength(units.length)
  for (const [i, there] of pictures.entries()) {
    const ours = decoder.decode(unitsOf(units[i]!))
    const own = ours.planes.map((p) => Buffer.from(p.buffer, p.byteOffset, p.byteLength))
    const theirs = Buffer.from(there.bytes, 'base64')
    expect([there.format, there.width, there.height, theirs.equals(Buffer.concat(own))], `picture ${i}`).toEqual([
      `I42${f.chroma === 1 ? 0 : 2}${f.depth === 10 ? 'P10' : ''}`,
      f.width,
      f.height,
      true,
    ])
  }
}

it.each([
  ['class 100', 1920, '1:1', 'avc1.7a1029', toChroma422],
  ['class 50', 1440, '4:3', 'avc1.6e1028', (p: Picture) => p],
] as const)(
  'a broadcast master of %s as it stands in its file, frame by frame',
  async (...[, width, aspect, codec, of]) => {
    const plan = smallPlan({ width, height: 1080 })
    const shape = { width, height: 1080, rate: plan.rate, scan: 'segmented' as const }
    const encoder = h264Intra.encode!.open({ ...shape, bitrate: 0 }, null)
    const pictureBytes = h264Intra.encode!.frameBytes!(shape, 0)
    const video = { ...shape, kind: 'video' as const, codec: 'h264-intra', pixelAspect: aspect, colour: bt709 }
    // across a cut, so that the size is found anew
    const frames = [47, 48, 49, 50, 51, 52]
    const units = mxf.units!('mxf', {
      ...{ video: { ...video, configuration: null }, pictureBytes, sound: null, samplesBefore: () => 0 },
      ...{ frames: frames.length, rate: plan.rate, start: { frames: 0, dropFrame: false }, chapters: [], name: '' },
      identity: new Uint8Array(16),
    })
    const bytes = new Uint8Array(units.tail.at + units.tail.bytes.length)
    const drawn = frames.map((n) => of(toDepth(drawFrame(plan, n), 10)))
    bytes.set(units.head)
    bytes.set(units.tail.bytes, units.tail.at)
    for (const [n, picture] of drawn.entries()) {
      await encoder.feed(picture)
      for (const u of encoder.take()) for (const p of units.unit(n, u.bytes, [])) bytes.set(p.bytes, p.at)
    }
    const media = await openMedia(memorySource(bytes))
    const track = media.video[0]!
    expect(track.info).toMatchObject({ width, height: 1080, pixelAspect: aspect, contradictions: [] })
    const essence = frames.map((_, n) =>
      bytes.slice(track.sample(n).offset, track.sample(n).offset + track.sample(n).size),
    )
    const { fault, pictures } = await decodeThere(codec, essence)
    expect([fault, pictures.length]).toEqual([null, frames.length])
    let n = 0
    for await (const { picture } of h264Intra.decode.open(media, track, null).read({ in: 0, out: frames.length })) {
      const own = picture.planes.map((p) => Buffer.from(p.buffer, p.byteOffset, p.byteLength))
      expect(Buffer.from(pictures[n]!.bytes, 'base64').equals(Buffer.concat(own)), `frame ${n}`).toBe(true)
      expect(readCounter(picture.planes[0], width, 10)).toBe(frames[n])
      let error = 0
      picture.planes[0].forEach((v, i) => (error += (v - drawn[n]!.planes[0][i]!) ** 2))
      expect(10 * Math.log10(1023 ** 2 / (error / picture.planes[0].length))).toBeGreaterThan(50)
      n++
    }
  },
)
